<script setup lang="ts">
/** A question that was put to all, for who teaches: how it goes, what was answered, by whom, and what to do next. */
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { changeToAll, hideAnswer, type AskedQuestion } from '../../../api/toAll'
import type { Schemas } from '../../../api/client'
import FaultNote from '../../../parts/FaultNote.vue'
import { useForm } from '../../../parts/form'
import { numberText } from '../../../parts/number'
import { leftText, useLeft } from './left'
import ResultBars from './ResultBars.vue'

const props = defineProps<{
  lecture: string
  question: AskedQuestion
  /** It stands with its recording: it is closed, and stays so. */
  recorded?: boolean
}>()
const emit = defineEmits<{ changed: []; withdrawn: [] }>()
const { t } = useI18n()
const form = useForm()
const { left, open } = useLeft(
  () => props.question,
  () => emit('changed'),
)
const who = ref(false)
/** For how many seconds from now on it is open with half a minute more; one without an end gets one. */
const more = computed(() => Math.min(3600, (open.value && props.question.timed ? left.value : 0) + 30))
const q = computed(() => props.question.question)

async function change(body: Schemas['ToAllChangeInputBody']) {
  await form.send(() => changeToAll(props.lecture, props.question.id, body))
  emit('changed')
  if (body.withdrawn) emit('withdrawn')
}
async function hide(g: Schemas['GivenText']) {
  await form.send(() => hideAnswer(props.lecture, props.question.id, g.person, !g.hidden))
  emit('changed')
}
function answer(g: Schemas['GivenText']): string {
  if (g.answer.number !== undefined) return numberText(g.answer.number)
  return g.answer.words || (g.answer.choices ?? []).map((i) => q.value.choices[i]).join(', ')
}
</script>

<template>
  <section class="asked" :aria-label="q.text">
    <p class="head">
      <b v-if="open" class="mono" role="timer">{{
        question.timed ? t('to_all.left', { left: leftText(left) }) : t('asking.open')
      }}</b>
      <span v-else class="soft">{{ t('to_all.closed') }}</span>
      <span role="status">{{
        t('asking.answered', { n: question.results?.answers ?? 0 }, question.results?.answers ?? 0)
      }}</span>
      <span v-if="question.lately > 0" class="soft">{{
        t('asking.lately', { n: question.lately }, question.lately)
      }}</span>
    </p>
    <p class="text">
      <bdi>{{ q.text }}</bdi>
    </p>
    <ResultBars v-if="question.results" :question="q" :results="question.results" />
    <p v-if="question.missing.length > 0" class="small missing">
      {{ t('asking.missing', { n: question.missing.length }, question.missing.length) }}
      <bdi>{{ question.missing.join(', ') }}</bdi>
    </p>
    <div class="bar-of-acts">
      <template v-if="!recorded">
        <el-button v-if="open" size="small" :disabled="form.busy.value" @click="change({ close: true })">{{
          t('asking.close')
        }}</el-button>
        <el-button size="small" :disabled="form.busy.value" @click="change({ seconds: more })">{{
          t(!open ? 'asking.again' : question.timed ? 'asking.longer' : 'asking.soon')
        }}</el-button>
      </template>
      <el-checkbox
        :model-value="question.shown"
        :disabled="form.busy.value"
        @update:model-value="(on) => change({ shown: !!on })"
        >{{ t('asking.show') }}</el-checkbox
      >
      <el-button v-if="question.given.length > 0" link size="small" :aria-expanded="who" @click="who = !who">{{
        t('asking.who')
      }}</el-button>
      <el-button v-if="!recorded" link size="small" :disabled="form.busy.value" @click="change({ withdrawn: true })">{{
        t('asking.withdraw')
      }}</el-button>
    </div>
    <ul v-if="who" class="plain given small">
      <li v-for="g in question.given" :key="g.person" :class="{ hidden: g.hidden }">
        <bdi class="name">{{ g.name }}</bdi>
        <bdi class="what">{{ answer(g) }}</bdi>
        <span v-if="g.right" class="soft">{{ t('to_all.right') }}</span>
        <span v-if="g.later" class="soft">{{ t('asking.later') }}</span>
        <el-button
          v-if="q.kind === 'words'"
          link
          size="small"
          :aria-label="t(g.hidden ? 'asking.unhide_it' : 'asking.hide_it', { name: g.name })"
          @click="hide(g)"
          >{{ t(g.hidden ? 'asking.unhide' : 'asking.hide') }}</el-button
        >
      </li>
    </ul>
    <FaultNote v-if="form.problem.value" :error="form.problem.value" />
  </section>
</template>

<style scoped>
.asked {
  padding: 10px 14px 12px;
  border: 1px solid var(--rule-strong);
  border-radius: 4px;
  background: var(--shell);
}

.asked > p {
  margin: 0 0 6px;
}

.head {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 14px;
}

.text {
  overflow-wrap: anywhere;
  font: 17px/1.35 var(--serif);
  white-space: pre-line;
}

.missing {
  margin-top: 8px !important;
}

.bar-of-acts {
  flex-wrap: wrap;
  margin-top: 10px;
}

.given {
  max-height: 240px;
  margin-top: 8px;
  overflow-y: auto;
}

.given li {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
  align-items: baseline;
  padding: 2px 0;
}

.name {
  min-width: 120px;
  font-weight: 600;
}

.what {
  overflow-wrap: anywhere;
}

.hidden .what {
  text-decoration: line-through;
}
</style>
