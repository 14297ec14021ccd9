<script setup lang="ts">
/** A question to all, for who answers it: in class while it is open, or later in the recording. */
import { computed, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import type { AnswerText, AskedQuestion } from '../../../api/toAll'
import FaultNote from '../../../parts/FaultNote.vue'
import FormSlot from '../../../parts/FormSlot.vue'
import { say } from '../../../messages/said'
import { numberText, readNumber } from '../../../parts/number'
import { leftText, useLeft } from './left'
import ResultBars from './ResultBars.vue'

const props = defineProps<{
  question: AskedQuestion
  /** It is answered in the recording. */
  recorded?: boolean
  /** What waits here to be sent. */
  waits?: AnswerText
  refused?: unknown
}>()
const emit = defineEmits<{ answer: [answer: AnswerText]; over: [] }>()
const { t } = useI18n()
const q = computed(() => props.question.question)
const { left, open } = useLeft(
  () => props.question,
  () => emit('over'),
)
/** What was answered in class stands; what was answered later can be changed. */
const takes = computed(() =>
  props.recorded ? !props.question.open && (!props.question.mine || props.question.later) : open.value,
)
const given = computed(() => props.waits ?? props.question.mine)
const one = ref<number>()
const several = ref<number[]>([])
const number = ref('')
const words = ref('')
const wrong = ref('')

function fill(a?: AnswerText) {
  one.value = a?.choices?.[0]
  several.value = [...(a?.choices ?? [])]
  number.value = a?.number === undefined ? '' : numberText(a.number)
  words.value = a?.words ?? ''
}
watch(
  () => [props.question.id, JSON.stringify(given.value)],
  () => fill(given.value),
  { immediate: true },
)

function send() {
  wrong.value = ''
  switch (q.value.kind) {
    case 'one':
      if (one.value !== undefined) return emit('answer', { choices: [one.value] })
      break
    case 'several':
      if (several.value.length > 0) return emit('answer', { choices: [...several.value].sort((a, b) => a - b) })
      break
    case 'number': {
      const x = readNumber(number.value)
      if (x !== undefined) return emit('answer', { number: x })
      wrong.value = say({ code: 'toall.number' })
      return
    }
    case 'words':
      if (words.value.trim()) return emit('answer', { words: words.value })
  }
  wrong.value = t('to_all.nothing')
}

/** What who looks answered, in words. */
const answered = computed(() => {
  const a = given.value
  if (!a) return ''
  if (a.number !== undefined) return numberText(a.number)
  return a.words || (a.choices ?? []).map((i) => q.value.choices[i]).join(', ')
})
const learnt = computed(() => q.value.right.length > 0 && !!props.question.mine)
</script>

<template>
  <section class="asked" :class="{ open: takes }" :aria-label="recorded ? q.text : t('to_all.name')">
    <template v-if="!recorded">
      <p class="head">
        <b>{{ t('to_all.name') }}</b>
        <span v-if="open && question.timed" class="push mono" role="timer">{{
          t('to_all.left', { left: leftText(left) })
        }}</span>
        <span v-else-if="!open" class="push soft">{{ t('to_all.closed') }}</span>
      </p>
      <p class="text">
        <bdi>{{ q.text }}</bdi>
      </p>
    </template>
    <form v-if="takes" @submit.prevent="send">
      <el-radio-group v-if="q.kind === 'one'" v-model="one" class="choices" :aria-label="q.text">
        <el-radio v-for="(c, i) in q.choices" :key="i" :value="i"
          ><bdi>{{ c }}</bdi></el-radio
        >
      </el-radio-group>
      <el-checkbox-group v-else-if="q.kind === 'several'" v-model="several" class="choices" :aria-label="q.text">
        <el-checkbox v-for="(c, i) in q.choices" :key="i" :value="i"
          ><bdi>{{ c }}</bdi></el-checkbox
        >
      </el-checkbox-group>
      <FormSlot v-else v-slot="x" :label="t('to_all.your_answer')" :fault="wrong">
        <el-input
          v-if="q.kind === 'number'"
          :id="x.id"
          v-model="number"
          class="entry-number"
          inputmode="decimal"
          autocomplete="off"
          :validate-event="false"
          :aria-invalid="x.invalid"
          :aria-describedby="x.described"
        />
        <el-input
          v-else
          :id="x.id"
          v-model="words"
          :maxlength="200"
          autocomplete="off"
          :validate-event="false"
          :aria-invalid="x.invalid"
          :aria-describedby="x.described"
        />
      </FormSlot>
      <p v-if="q.kind === 'several'" class="soft small">{{ t('to_all.several_help') }}</p>
      <p v-if="wrong && (q.kind === 'one' || q.kind === 'several')" class="tally small" role="alert">{{ wrong }}</p>
      <div class="bar-of-acts">
        <el-button native-type="submit" :type="given ? 'default' : 'primary'">{{
          t(given ? 'to_all.change' : 'to_all.answer')
        }}</el-button>
        <span role="status" class="soft small">{{
          waits ? t('to_all.waits') : question.mine ? t(recorded ? 'to_all.kept_later' : 'to_all.kept') : ''
        }}</span>
      </div>
    </form>
    <p v-else-if="answered" class="yours" role="status">
      {{ t('to_all.you_answered', { answer: answered }) }}
      <span v-if="waits" class="soft small">{{ t('to_all.waits') }}</span>
    </p>
    <p v-else-if="!recorded" class="soft">{{ t('to_all.not_answered') }}</p>
    <FaultNote v-if="refused" :error="refused" />
    <p v-if="learnt" class="verdict">
      <b>{{ t(question.right ? 'to_all.all_right' : 'to_all.not_right') }}</b>
      <template v-if="!question.results">
        {{ t('to_all.right_is', { text: q.right.map((i) => q.choices[i]).join(', ') }) }}</template
      >
    </p>
    <ResultBars
      v-if="question.results && (!takes || !recorded || given)"
      :question="q"
      :results="question.results"
      :mine="question.mine"
    />
  </section>
</template>

<style scoped>
.asked {
  padding: 12px 16px 14px;
  border: 1px solid var(--rule-strong);
  border-radius: 4px;
  background: var(--shell);
}

.open {
  border-inline-start: 5px solid var(--kelp);
}

.asked > p {
  margin: 0 0 6px;
}

.head {
  display: flex;
  gap: 12px;
  align-items: baseline;
}

.text {
  overflow-wrap: anywhere;
  font: 18px/1.35 var(--serif);
  white-space: pre-line;
}

.choices {
  display: grid;
  justify-items: start;
  margin: 4px 0;
}

.choices > label {
  height: auto;
  min-height: 30px;
  margin: 0;
  white-space: normal;
}

.bar-of-acts {
  margin-top: 8px;
}

.asked > .verdict {
  margin-top: 10px;
}

form p {
  margin: 4px 0 0;
}
</style>
