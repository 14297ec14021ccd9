<script setup lang="ts">
/** The question to all that is open in a lecture, or the last one while its results are shown or it was just closed. */
import { useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'
import { keys } from '../../../api/queries'
import { useToAll } from '../../../api/toAll'
import { collegeNow } from '../../../parts/clock'
import { useAnswering } from './answering'
import AnswerCard from './AnswerCard.vue'

const props = defineProps<{ lecture: string }>()
const client = useQueryClient()
const list = useToAll(() => props.lecture)
const refresh = () => void client.invalidateQueries({ queryKey: keys.toAll(props.lecture) })
const answering = useAnswering(() => ({ lecture: props.lecture }), refresh)
/** How long a question that was closed stays in sight whose results are not shown. */
const stays = 3 * 60_000
const shown = computed(() => {
  void list.dataUpdatedAt.value
  const last = list.data.value?.teaches ? undefined : list.data.value?.questions.at(-1)
  if (!last) return undefined
  return last.open || last.shown || Date.parse(last.closes_at) > collegeNow() - stays ? last : undefined
})
</script>

<template>
  <AnswerCard
    v-if="shown"
    :key="shown.id"
    :question="shown"
    :waits="answering.waits(shown.id)?.answer"
    :refused="answering.refused.value[shown.id]"
    @answer="(a) => shown && answering.put(shown.id, a)"
    @over="refresh"
  />
</template>
