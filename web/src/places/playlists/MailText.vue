<script setup lang="ts">
/** What a course writes to its students: in its own words, or in those of the college. */
import { useQueryClient } from '@tanstack/vue-query'
import { computed, nextTick, ref, useTemplateRef } from 'vue'
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
const form = useForm()
/** The words that are put in their places. */
const words = ['name', 'course', 'recordings', 'unseen', 'catch_up']
const college = say({ code: 'letter.news_text', with: Object.fromEntries(words.map((w) => [w, `{${w}}`])) })
/** It is being changed. */
const open = defineModel<boolean>('open', { required: true })
const text = ref('')
const box = useTemplateRef<{ textarea: HTMLTextAreaElement }>('box')
const done = ref<{ key: number; was: string }>()
const now = computed(() => props.template || college)

function begin() {
  text.value = now.value
  done.value = undefined
  open.value = true
}

async function keep(template: string) {
  const was = props.template
  if (!(await form.send(() => setTemplate(props.course, template).then(() => true)))) return
  open.value = false
  done.value = { key: Date.now(), was }
  await look()
}
const look = () => client.invalidateQueries({ queryKey: keys.courseNews(props.course) })

/** put puts a word where one writes. */
async function put(word: string) {
  const at = box.value?.textarea
  const from = at?.selectionStart ?? text.value.length
  text.value = `${text.value.slice(0, from)}{${word}}${text.value.slice(at?.selectionEnd ?? from)}`
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
      <el-button v-if="template" link @click="keep('')">{{ t('telling.text_back') }}</el-button>
    </p>
    <UndoLine
      v-if="done"
      :key="done.key"
      :text="t('telling.text_kept')"
      :undo="() => setTemplate(course, done!.was)"
      @undone="look"
    />
    <form v-if="open" novalidate @submit.prevent="keep(text === college ? '' : text)">
      <FormSlot v-slot="x" :label="t('telling.text')" :fault="form.fields.value.template">
        <el-input
          :id="x.id"
          ref="box"
          v-model="text"
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
        <el-button link @click="open = false">{{ t('leave') }}</el-button>
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
