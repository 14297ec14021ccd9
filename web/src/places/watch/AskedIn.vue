<script setup lang="ts">
/** The questions that were put to all while it was captured, at their moments: who was not there answers them here. */
import { useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'
import { keys } from '../../api/queries'
import AnswerCard from '../common/to-all/AnswerCard.vue'
import AskedCard from '../common/to-all/AskedCard.vue'
import { useAnswering } from '../common/to-all/answering'
import MomentRow from './MomentRow.vue'

const props = defineProps<{ page: Schemas['Watch']; asked: Schemas['AskedIn']; at: number }>()
const emit = defineEmits<{ seek: [ms: number] }>()
const { t } = useI18n()
const client = useQueryClient()
const refresh = () => void client.invalidateQueries({ queryKey: keys.askedIn(props.page.id) })
const answering = useAnswering(() => ({ recording: props.page.id }), refresh)
const all = computed(() => props.asked.questions)
/** For how long after its moment a question is the one that is asked now. */
const stays = 90_000
const now = computed(() => all.value.findLast((q) => (q.at ?? 0) <= props.at + 200 && props.at < (q.at ?? 0) + stays))
const chosen = ref('')
const open = computed(() => all.value.find((q) => q.id === chosen.value) ?? now.value)

function choose(id: string, at: number) {
  chosen.value = chosen.value === id ? '' : id
  emit('seek', at)
}
</script>

<template>
  <section class="asked-in">
    <h2>{{ t('to_all.in_it', { n: all.length }) }}</h2>
    <ol class="plain">
      <li v-for="q in all" :key="q.id">
        <MomentRow :at="q.at ?? 0" :now="q.id === now?.id" @seek="choose(q.id, q.at ?? 0)">
          <bdi>{{ q.question.text }}</bdi>
          <span v-if="q.mine" class="soft small"> · {{ t('to_all.done') }}</span>
        </MomentRow>
        <template v-if="q.id === open?.id">
          <AskedCard v-if="asked.teaches" :lecture="page.lecture_id" :question="q" recorded @changed="refresh" />
          <AnswerCard
            v-else
            :question="q"
            recorded
            :waits="answering.waits(q.id)?.answer"
            :refused="answering.refused.value[q.id]"
            @answer="(a) => answering.put(q.id, a)"
          />
        </template>
      </li>
    </ol>
  </section>
</template>

<style scoped>
.asked-in {
  max-width: 720px;
  margin-top: 14px;
}

ol {
  margin-top: 4px;
}
</style>
