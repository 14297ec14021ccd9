<script setup lang="ts">
/** A question as it is written: how it is answered, its text, its choices, and which of them are right. */
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import type { QuestionText } from '../../../api/toAll'
import FormSlot from '../../../parts/FormSlot.vue'

const question = defineModel<QuestionText>({ required: true })
const props = defineProps<{ faults: Record<string, string> }>()
const { t } = useI18n()
const kinds = ['one', 'several', 'number', 'words'] as const
const mostChoices = 10
const choose = computed(() => question.value.kind === 'one' || question.value.kind === 'several')
/** At least two choices can be written, and always one more, up to the most. */
const lines = computed(() => {
  const all = question.value.choices
  return all.length < 2 ? [...all, ...Array<string>(2 - all.length).fill('')] : all
})

const put = (x: Partial<QuestionText>) => (question.value = { ...question.value, ...x })
const write = (i: number, text: string) => put({ choices: lines.value.map((c, n) => (n === i ? text : c)) })
function more() {
  put({ choices: [...lines.value, ''] })
}
function less(i: number) {
  put({
    choices: lines.value.filter((_, n) => n !== i),
    right: question.value.right.filter((n) => n !== i).map((n) => (n > i ? n - 1 : n)),
  })
}
function mark(i: number, on: boolean) {
  const others = question.value.kind === 'one' ? [] : question.value.right.filter((n) => n !== i)
  put({ right: on ? [...others, i].sort((a, b) => a - b) : question.value.right.filter((n) => n !== i) })
}
function turn(kind: QuestionText['kind']) {
  put({ kind, right: kind === 'one' ? question.value.right.slice(0, 1) : question.value.right })
}
const faultOf = (i: number) => props.faults[`choices.${i}`]
</script>

<template>
  <div class="question">
    <el-radio-group
      :model-value="question.kind"
      size="small"
      :aria-label="t('to_all.kind')"
      @update:model-value="(k) => turn(k as QuestionText['kind'])"
    >
      <el-radio-button v-for="k in kinds" :key="k" :value="k">{{ t(`to_all.kinds.${k}`) }}</el-radio-button>
    </el-radio-group>
    <FormSlot v-slot="x" :label="t('to_all.text')" :fault="faults.text">
      <el-input
        :id="x.id"
        type="textarea"
        :autosize="{ minRows: 2, maxRows: 6 }"
        :model-value="question.text"
        :validate-event="false"
        :aria-invalid="x.invalid"
        :aria-describedby="x.described"
        @update:model-value="(text: string) => put({ text })"
      />
    </FormSlot>
    <template v-if="choose">
      <ol class="plain">
        <li v-for="(c, i) in lines" :key="i">
          <FormSlot v-slot="x" :label="t('to_all.choice', { n: i + 1 })" :fault="faultOf(i)" inline class="line">
            <el-input
              :id="x.id"
              :model-value="c"
              :placeholder="t('to_all.choice', { n: i + 1 })"
              :validate-event="false"
              :aria-invalid="x.invalid"
              :aria-describedby="x.described"
              @update:model-value="(text: string) => write(i, text)"
            />
          </FormSlot>
          <el-checkbox :model-value="question.right.includes(i)" @update:model-value="(on) => mark(i, !!on)"
            >{{ t('to_all.right') }}<span class="away">: {{ t('to_all.choice', { n: i + 1 }) }}</span></el-checkbox
          >
          <el-button
            v-if="lines.length > 2"
            link
            size="small"
            :aria-label="t('to_all.less_it', { n: i + 1 })"
            @click="less(i)"
            >{{ t('remove') }}</el-button
          >
        </li>
      </ol>
      <p v-if="faults.choices" class="tally small" role="alert">{{ faults.choices }}</p>
      <p v-if="faults.right" class="tally small" role="alert">{{ faults.right }}</p>
      <el-button v-if="lines.length < mostChoices" size="small" @click="more">{{ t('to_all.more') }}</el-button>
      <p class="soft small">{{ t('to_all.right_help') }}</p>
    </template>
  </div>
</template>

<style scoped>
li {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  align-items: center;
  margin: 6px 0;
}

.line {
  flex: 1 1 200px;
  max-width: none;
}

p {
  margin: 6px 0 0;
}
</style>
