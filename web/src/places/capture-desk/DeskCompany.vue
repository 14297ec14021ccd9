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
  <el-radio-group v-else v-model="alone" class="company" :aria-label="t('ahead.company')">
    <el-radio :value="false">{{ t('ahead.with_class') }}</el-radio>
    <el-radio :value="true">{{ t('ahead.alone') }}</el-radio>
  </el-radio-group>
</template>

<style scoped>
.company {
  display: flex;
  gap: 22px;
  margin: 0 0 10px;
}
</style>
