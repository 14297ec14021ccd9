<script setup lang="ts">
/**
 * The head of a column by which a table can be sorted: a button, which the library's own is not for a keyboard, that
 * says how it is sorted now.
 */
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Sorted } from './sorting'

const props = defineProps<{ by: string; text: string }>()
const sorted = defineModel<Sorted>({ required: true })
const { t } = useI18n()
const now = computed(() => (sorted.value.by === props.by ? (sorted.value.down ? 'down' : 'up') : undefined))
</script>

<template>
  <el-button
    link
    class="sort"
    :aria-label="now ? t(`sort.${now}`, { text }) : t('sort.by', { text })"
    @click="sorted = { by, down: now === 'up' }"
  >
    {{ text }} <span aria-hidden="true">{{ now === 'up' ? '↑' : now === 'down' ? '↓' : '' }}</span>
  </el-button>
</template>

<style scoped>
.sort {
  color: inherit;
  font: inherit;
}
</style>
