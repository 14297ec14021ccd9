<script setup lang="ts">
/** What a course writes to its students: in its own words, or in those of the college. */
import { useQueryClient } from '@tanstack/vue-query'
import { nextTick, useTemplateRef } from 'vue'
import { useI18n } from 'vue-i18n'
import { setTemplate } from '../../api/news'
import { keys } from '../../api/queries'
import { say } from '../../messages/said'
import FaultNote from '../../parts/FaultNote.vue'
import FormSlot from '../../parts/FormSlot.vue'
import UndoLine from '../../parts/UndoLine.vue'
import { useForm } from '../../parts/form'

const props = defineProps<{ course: string; template: string }>()
const { t } = useI18n()
const client = useQueryClient()
/** The words that are put in their places. */
const words = ['name', 'course', 'recordings', 'unseen', 'catch_up']
const college = say({ code: 'letter.news_text', with: Object.fromEntries(words.map((w) => [w, `{${w}}`])) })
/** It is being changed. */
const open = defineModel<boolean>('open', { required: true })
const form = useForm(() => ({ text: props.template || college }))
const { draft, done } = form
const box = useTemplateRef<{ textarea: HTMLTextAreaElement }>('box')

function begin() {
  form.reset()
  done.value = undefined
  open.value = true
}

function leave() {
  form.reset()
  open.value = false
}

const look = () => client.invalidateQueries({ queryKey: keys.courseNews(props.course) })
const write = (d: { text: string }) => setTemplate(props.course, d.text === college ? '' : d.text)

async function keep() {
  if (await form.keep(write, t('telling.text_kept'), look)) open.value = false
}

/** take has the course write what the college does. */
function take() {
  draft.value.text = college
  void keep()
}

/** put puts a word where one writes. */
async function put(word: string) {
  const at = box.value?.textarea
  const { text } = draft.value
  const from = at?.selectionStart ?? text.length
  draft.value.text = `${text.slice(0, from)}{${word}}${text.slice(at?.selectionEnd ?? from)}`
  await nextTick()
  at?.focus()
  at?.setSelectionRange(from + word.length + 2, from + word.length + 2)
}
</script>

<template>
  <section class="mail" :aria-label="t('telling.text')">
    <p v-if="!open" class="small">
      <span class="soft">{{ t(template ? 'telling.text_own' : 'telling.text_college') }}</span>
      <el-button link @click="begin">{{ t('telling.text_change') }}</el-button>
      <el-button v-if="template" link @click="take">{{ t('telling.text_back') }}</el-button>
    </p>
    <UndoLine v-if="done" v-bind="done" :key="done.key" />
    <form v-if="open" novalidate @submit.prevent="keep">
      <FormSlot v-slot="x" :label="t('telling.text')" :fault="form.fields.value.template">
        <el-input
          :id="x.id"
          ref="box"
          v-model="draft.text"
          type="textarea"
          :autosize="{ minRows: 6, maxRows: 14 }"
          :validate-event="false"
          :aria-invalid="x.invalid"
          :aria-describedby="x.described"
        />
      </FormSlot>
      <p class="small words">
        <span class="soft">{{ t('telling.put') }}</span>
        <el-button v-for="w in words" :key="w" size="small" @click="put(w)">{{ t(`telling.word.${w}`) }}</el-button>
      </p>
      <FaultNote v-if="form.whole.value" :error="form.whole.value" />
      <p class="bar-of-acts">
        <el-button native-type="submit" :disabled="form.busy.value">{{ t('telling.text_keep') }}</el-button>
        <el-button link @click="leave">{{ t('leave') }}</el-button>
      </p>
    </form>
    <FaultNote v-if="!open && form.problem.value" :error="form.problem.value" />
  </section>
</template>

<style scoped>
.mail {
  margin-top: 10px;
}

.words {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
}

.words .el-button {
  margin: 0;
}
</style>
