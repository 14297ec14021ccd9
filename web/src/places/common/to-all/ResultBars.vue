<script setup lang="ts">
/** What was answered, as a picture that reads as a list: choices as bars, numbers as columns, words by their size. */
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../../api/client'
import type { AnswerText, QuestionText } from '../../../api/toAll'
import { numberText } from '../../../parts/number'

const props = defineProps<{
  question: QuestionText
  results: Schemas['Results']
  /** What who looks answered. */
  mine?: AnswerText
}>()
const { t } = useI18n()
const most = computed(() => Math.max(1, ...props.results.bars.map((b) => b.n)))
const choose = computed(() => props.question.kind === 'one' || props.question.kind === 'several')

/** Which numbers a column is for. */
function stretch(b: Schemas['ResultBar']): string {
  if (b.from === b.until) return numberText(b.from)
  if (b.below) return t('to_all.below', { n: numberText(b.until) })
  if (b.above) return t('to_all.above', { n: numberText(b.from) })
  return `${numberText(b.from)}–${numberText(b.until)}`
}
const bars = computed(() =>
  props.results.bars.map((b, i) => ({
    key: i,
    label: choose.value ? b.label : props.question.kind === 'number' ? stretch(b) : b.label,
    n: b.n,
    share: props.results.answers > 0 ? Math.round((100 * b.n) / props.results.answers) : 0,
    long: (100 * b.n) / most.value,
    right: choose.value && props.question.right.includes(i),
    mine: choose.value && (props.mine?.choices ?? []).includes(i),
    size: 15 + Math.round((15 * b.n) / most.value),
  })),
)
</script>

<template>
  <div class="results">
    <p v-if="results.answers === 0" class="soft small">{{ t('to_all.none_yet') }}</p>
    <ol v-if="choose" class="plain bars">
      <li v-for="b in bars" :key="b.key" :class="{ right: b.right }">
        <span class="label">
          <bdi>{{ b.label }}</bdi>
          <span v-if="b.right" class="sign">{{ t('to_all.right') }}</span>
          <span v-if="b.mine" class="soft small">{{ t('to_all.yours') }}</span>
        </span>
        <span class="bar" aria-hidden="true"><span :style="{ width: `${b.long}%` }" /></span>
        <span class="n">
          <b>{{ b.n }}</b> <span class="soft">{{ t('to_all.share', { n: b.share }) }}</span>
        </span>
      </li>
    </ol>
    <ol v-else-if="question.kind === 'number'" class="plain columns">
      <li v-for="b in bars" :key="b.key">
        <b>{{ b.n }}</b>
        <span class="column" aria-hidden="true"><span :style="{ height: `${b.long}%` }" /></span>
        <span class="under">{{ b.label }}</span>
      </li>
    </ol>
    <ol v-else class="plain words">
      <li v-for="b in bars" :key="b.key">
        <bdi :style="{ fontSize: `${b.size}px` }">{{ b.label }}</bdi>
        <span v-if="b.n > 1" class="soft small">{{ t('to_all.times', { n: b.n }) }}</span>
      </li>
    </ol>
    <p v-if="results.others > 0" class="soft small">{{ t('to_all.others', { n: results.others }, results.others) }}</p>
    <p v-if="results.median !== undefined && results.answers > 2" class="soft small">
      {{ t('to_all.median', { n: numberText(results.median) }) }}
    </p>
  </div>
</template>

<style scoped>
.results p {
  margin: 4px 0 0;
}

.bars {
  display: grid;
  gap: 8px;
}

.bars li {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 2px 12px;
}

.label {
  display: flex;
  grid-column: 1 / -1;
  flex-wrap: wrap;
  gap: 0 10px;
  align-items: baseline;
  overflow-wrap: anywhere;
}

.sign {
  padding: 0 6px;
  border: 1px solid var(--kelp);
  border-radius: 3px;
  font-size: 12px;
}

.bar {
  align-self: center;
  height: var(--bar-high, 12px);
  background: var(--shell-2, var(--rule));
}

.bar span {
  display: block;
  height: 100%;
  min-width: 2px;
  background: var(--ink-2);
}

.right .bar span {
  background: var(--kelp);
}

.n {
  min-width: 74px;
  text-align: end;
}

.columns {
  display: flex;
  gap: 6px;
  align-items: flex-end;
  overflow-x: auto;
}

.columns li {
  display: grid;
  flex: 1 1 44px;
  gap: 2px;
  justify-items: center;
}

.column {
  display: flex;
  align-items: flex-end;
  width: 100%;
  height: var(--column-high, 96px);
  border-bottom: 1px solid var(--rule-strong);
}

.column span {
  width: 100%;
  min-height: 1px;
  background: var(--kelp);
}

.under {
  font-size: 0.85em;
  white-space: nowrap;
}

.words {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 18px;
  align-items: baseline;
}

.words bdi {
  overflow-wrap: anywhere;
  font-family: var(--serif);
}
</style>
