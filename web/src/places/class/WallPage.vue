<script setup lang="ts">
/**
 * What the hall sees, large and without names: the question that is open with its countdown, or the last one, with its
 * results once they are shown; before the first the code of the hall. What is captured of a screen has it too.
 */
import { useQueryClient } from '@tanstack/vue-query'
import { computed, watchEffect } from 'vue'
import { useI18n } from 'vue-i18n'
import { keys } from '../../api/queries'
import { useLecturePage } from '../../api/timetable'
import { useToAll } from '../../api/toAll'
import FaultNote from '../../parts/FaultNote.vue'
import { nameTab } from '../../router'
import { leftText, useLeft } from '../common/to-all/left'
import ResultBars from '../common/to-all/ResultBars.vue'
import HallCode from './HallCode.vue'

const props = defineProps<{ lecture: string }>()
const { t } = useI18n()
const client = useQueryClient()
const page = useLecturePage(() => props.lecture)
const l = computed(() => page.data.value?.lecture)
const list = useToAll(() => props.lecture)
const last = computed(() => (list.data.value?.questions ?? []).filter((q) => !q.withdrawn).at(-1))
const { left, open } = useLeft(
  () => last.value,
  () => void client.invalidateQueries({ queryKey: keys.toAll(props.lecture) }),
)
/** What is right is not shown before it is over. */
const question = computed(() =>
  last.value ? { ...last.value.question, right: open.value ? [] : last.value.question.right } : undefined,
)
const n = computed(() => last.value?.results?.answers ?? 0)
watchEffect(() => nameTab(l.value ? `${t('asking.wall')} · ${l.value.course}` : ''))
</script>

<template>
  <main class="wall">
    <FaultNote v-if="list.error.value && !list.data.value" :error="list.error.value" again @again="list.refetch()" />
    <template v-else-if="list.data.value && l">
      <p class="of soft">{{ l.course }} · {{ l.topic || l.course_title }}</p>
      <template v-if="last && question && list.data.value.teaches">
        <h1>
          <bdi>{{ question.text }}</bdi>
        </h1>
        <p class="how">
          <b v-if="open && last.timed" class="mono" role="timer">{{ leftText(left) }}</b>
          <span v-else>{{ t(open ? 'asking.open' : 'to_all.closed') }}</span>
          <span>{{ t('asking.answered', { n }, n) }}</span>
        </p>
        <ResultBars v-if="last.shown && last.results" class="large" :question="question" :results="last.results" />
        <ol v-else-if="question.choices.length > 0" class="plain choices">
          <li v-for="(c, i) in question.choices" :key="i">
            <bdi>{{ c }}</bdi>
          </li>
        </ol>
        <p v-if="!last.shown && !open" class="soft">{{ t('asking.wall_hidden') }}</p>
      </template>
      <template v-else>
        <h1>
          <bdi>{{ l.topic || l.course_title }}</bdi>
        </h1>
        <p class="soft">{{ t('asking.wall_none') }}</p>
      </template>
      <div class="code"><HallCode :lecture="lecture" /></div>
    </template>
  </main>
</template>

<style scoped>
.wall {
  --bar-high: 26px;
  --column-high: 34vh;

  display: flex;
  flex-direction: column;
  gap: 14px;
  min-height: 100vh;
  padding: 36px 56px;
  background: var(--paper);
  font-size: 22px;
}

.of {
  margin: 0;
  font-size: 18px;
}

h1 {
  overflow-wrap: anywhere;
  font-size: clamp(30px, 4.2vw, 60px);
  line-height: 1.2;
  white-space: pre-line;
}

.how {
  display: flex;
  gap: 30px;
  align-items: baseline;
  margin: 0;
}

.how b {
  font-size: 44px;
}

.choices {
  display: grid;
  gap: 12px;
  font-size: clamp(20px, 2.4vw, 34px);
}

.choices li {
  padding: 8px 18px;
  border: 1px solid var(--rule-strong);
  border-radius: 4px;
}

.code {
  margin-top: auto;
}
</style>
