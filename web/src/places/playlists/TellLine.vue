<script setup lang="ts">
/** What is new to the students of a course, and where they are told of it. */
import { computed, defineAsyncComponent, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute } from 'vue-router'
import { useCourseNews } from '../../api/news'

const TellSheet = defineAsyncComponent(() => import('./TellSheet.vue'))

const props = defineProps<{ course: string; code: string; zone: string }>()
const { t } = useI18n()
const page = useCourseNews(() => props.course)
const route = useRoute()
/** Who comes here to tell finds it open. */
const open = ref(route.query.tell !== undefined)
const fresh = computed(() => page.data.value?.recordings.filter((r) => r.new > 0 && !r.silent) ?? [])
const sentence = computed(() => {
  if (fresh.value.length > 0) return t('telling.fresh', { n: fresh.value.length }, fresh.value.length)
  if (page.data.value?.planned.length)
    return t('telling.to_come', { n: page.data.value.planned.length }, page.data.value.planned.length)
  return page.data.value?.recordings.length ? t('telling.all_told') : ''
})
</script>

<template>
  <p v-if="sentence" class="tell-line">
    <span :class="{ soft: fresh.length === 0 }">{{ sentence }}</span>
    <el-button :link="fresh.length === 0" :type="fresh.length > 0 ? 'primary' : undefined" @click="open = true">{{
      t(fresh.length > 0 ? 'telling.open' : 'telling.look')
    }}</el-button>
  </p>
  <TellSheet v-if="open" :course="course" :code="code" :zone="zone" @close="open = false" />
</template>

<style scoped>
.tell-line {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 16px;
  align-items: center;
  margin: 4px 0 10px;
}
</style>
