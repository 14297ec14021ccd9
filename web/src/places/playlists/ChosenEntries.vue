<script setup lang="ts">
/** What is done to several entries at once. */
import { useI18n } from 'vue-i18n'
import { ref } from 'vue'
import ChoiceList from '../../parts/ChoiceList.vue'

defineProps<{
  count: number
  /** The headings below which they can be put; '' is the top. */
  places: { value: string; text: string }[]
  /** Some of them can be lit for other courses. */
  lightable: boolean
}>()
const emit = defineEmits<{ put: [below: string]; remove: []; light: []; none: [] }>()
const { t } = useI18n()
const below = ref<string>()

function put(place: string | undefined) {
  if (place === undefined) return
  emit('put', place)
  below.value = undefined
}
</script>

<template>
  <div class="chosen-bar" role="group" :aria-label="t('playlist.chosen', { n: count }, count)">
    <b role="status">{{ t('playlist.chosen', { n: count }, count) }}</b>
    <ChoiceList
      v-if="places.length > 0"
      :model-value="below!"
      :label="t('playlist.put_below')"
      :options="places"
      @update:model-value="put"
    />
    <el-button v-if="lightable" type="primary" @click="emit('light')">{{ t('lighting.open') }}</el-button>
    <el-button @click="emit('remove')">{{ t('playlist.remove') }}</el-button>
    <el-button link @click="emit('none')">{{ t('playlist.choose_none') }}</el-button>
  </div>
</template>

<style scoped>
.chosen-bar :deep(.el-select) {
  width: 200px;
}

.chosen-bar {
  position: sticky;
  bottom: 0;
  z-index: 2;
  display: flex;
  flex-wrap: wrap;
  gap: 8px 14px;
  align-items: center;
  margin-top: 12px;
  padding: 10px 14px;
  border: 1px solid var(--edge);
  background: var(--kelp-soft);
}
</style>
