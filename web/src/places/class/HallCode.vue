<script setup lang="ts">
/** The code for those who sit in the hall, shown large when one wants it; with what is left of its time. */
import { useIntervalFn } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { useHallCode } from '../../api/register'

const props = defineProps<{ lecture: string }>()
const { t } = useI18n()
const code = useHallCode(() => props.lecture)
const now = ref(Date.now())
useIntervalFn(() => (now.value = Date.now()), 500)
const turns = 20_000
const left = computed(() => {
  const d = code.data.value
  return d ? Math.max(0, d.left_ms - (now.value - code.dataUpdatedAt.value)) : 0
})
</script>

<template>
  <div v-if="code.data.value" class="hall-code">
    <p class="code" role="status" :aria-label="t('hall.code', { code: [...code.data.value.code].join(' ') })">
      {{ code.data.value.code }}
    </p>
    <div class="left" aria-hidden="true"><div :style="{ width: `${(100 * left) / turns}%` }" /></div>
    <p class="soft small">{{ t('hall.help') }}</p>
  </div>
</template>

<style scoped>
.code {
  margin: 0;
  font: 600 56px/1.2 var(--mono);
  letter-spacing: 0.16em;
}

.left {
  height: 4px;
  max-width: 240px;
  background: var(--rule);
}

.left div {
  height: 100%;
  background: var(--kelp);
}

p {
  margin: 4px 0 0;
}
</style>
