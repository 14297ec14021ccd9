<script setup lang="ts">
/** Whether the class is there, or one records alone and nobody can follow. */
import { useI18n } from 'vue-i18n'

const alone = defineModel<boolean>({ required: true })
defineProps<{
  /** A lesson of a whole week is always recorded alone. */
  ahead: boolean
  week: number
}>()
const { t } = useI18n()
</script>

<template>
  <p v-if="ahead" class="company">{{ t('ahead.for_week', { n: week }) }}</p>
  <div v-else class="company" role="radiogroup" :aria-label="t('ahead.company')">
    <label class="choice"><input v-model="alone" type="radio" :value="false" /> {{ t('ahead.with_class') }}</label>
    <label class="choice"><input v-model="alone" type="radio" :value="true" /> {{ t('ahead.alone') }}</label>
  </div>
</template>

<style scoped>
.company {
  display: flex;
  gap: 22px;
  margin: 0 0 10px;
}
</style>
