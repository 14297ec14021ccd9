<script setup lang="ts">
import { useI18n } from 'vue-i18n'
import PageSheet from '../../parts/PageSheet.vue'
import { listed } from './keys'

defineProps<{ open: boolean }>()
const emit = defineEmits<{ close: [] }>()
const { t } = useI18n()
</script>

<template>
  <PageSheet :open="open" :title="t('keys.title')" @close="emit('close')">
    <dl>
      <template v-for="[keys, what] in listed" :key="what">
        <dt>
          <kbd v-for="k in keys" :key="k">{{ k }}</kbd>
        </dt>
        <dd>{{ t(`keys.${what}`) }}</dd>
      </template>
    </dl>
  </PageSheet>
</template>

<style scoped>
dl {
  display: grid;
  grid-template-columns: auto 1fr;
  gap: 8px 18px;
}

dt {
  display: flex;
  gap: 5px;
}

dd {
  margin: 0;
}
</style>
