<script setup lang="ts">
/** Whether an account can be used, by shape and word, and the way to send its letter again. */
import { useI18n } from 'vue-i18n'
import { dateText } from '../../parts/time'

defineProps<{ name: string; active: boolean; closed?: boolean; invited?: string; zone: string }>()
const emit = defineEmits<{ send: [] }>()
const { t } = useI18n()
</script>

<template>
  <span class="account">
    <svg width="12" height="12" viewBox="0 0 12 12" aria-hidden="true">
      <circle
        cx="6"
        cy="6"
        r="4.6"
        :fill="active && !closed ? 'currentColor' : 'none'"
        stroke="currentColor"
        stroke-width="1.6"
      />
      <path v-if="closed" d="M2.8 9.2 9.2 2.8" stroke="currentColor" stroke-width="1.6" />
    </svg>
    <template v-if="closed">{{ t('people.closed') }}</template>
    <template v-else-if="active">{{ t('people.active') }}</template>
    <template v-else>
      {{ invited ? t('people.invited', { on: dateText(invited, zone) }) : t('people.not_invited') }}
      <el-button
        link
        :aria-label="t('people.send_it', { send: t(invited ? 'people.again' : 'people.send'), name })"
        @click="emit('send')"
      >
        {{ t(invited ? 'people.again' : 'people.send') }}
      </el-button>
    </template>
  </span>
</template>

<style scoped>
.account {
  display: inline-flex;
  flex-wrap: wrap;
  gap: 2px 8px;
  align-items: baseline;
}

svg {
  transform: translateY(1px);
}
</style>
