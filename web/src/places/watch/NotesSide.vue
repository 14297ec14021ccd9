<script setup lang="ts">
/** What one noted for oneself, each at its moment, and a field to note something at the one that plays. */
import { useQueryClient } from '@tanstack/vue-query'
import { computed, nextTick, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'
import { keepNote, removeNote, useNotes, type Note } from '../../api/notes'
import { keys } from '../../api/queries'
import FaultNote from '../../parts/FaultNote.vue'
import FormSlot from '../../parts/FormSlot.vue'
import UndoLine from '../../parts/UndoLine.vue'
import { useForm } from '../../parts/form'
import { timecode } from '../../parts/time'
import { newId } from '../../parts/uuid'
import MomentRow from './MomentRow.vue'

const props = defineProps<{ page: Schemas['Watch']; at: number; uncut: boolean }>()
const emit = defineEmits<{ seek: [ms: number] }>()
const { t } = useI18n()
const client = useQueryClient()
const list = useNotes(
  () => props.page.id,
  () => props.page.edition,
  () => props.uncut,
)
const notes = computed(() => list.data.value?.notes ?? [])
/** The note that lies at what plays, or before. */
const now = computed(() => notes.value.findLast((n) => n.at <= props.at + 100)?.id)
const again = () => client.invalidateQueries({ queryKey: keys.notes(props.page.id) })

/** What the field began with. */
const start = ref({ text: '' })
/** What is changed; nothing while a new one is written. */
const changed = ref<Note>()
const id = ref(newId())
/** A note stays at the moment at which one began to write it. */
const begun = ref<number>()
const moment = computed(() => changed.value?.at ?? begun.value ?? props.at)
const field = ref<{ focus: () => void }>()
const form = useForm(() => start.value)
const { draft } = form

function written() {
  if (!draft.value.text.trim()) begun.value = undefined
  else begun.value ??= props.at
}

function begin(note?: Note) {
  changed.value = note
  id.value = note?.id ?? newId()
  start.value = { text: note?.text ?? '' }
  form.reset()
  begun.value = undefined
  form.problem.value = undefined
}

async function change(note: Note) {
  begin(note)
  await nextTick()
  field.value?.focus()
}

async function keep() {
  const { text } = draft.value
  if (!text.trim() || form.busy.value) return
  const body = { edition: props.page.edition, at: Math.round(moment.value), uncut: props.uncut, text }
  if (!(await form.act(() => keepNote(props.page.id, id.value, body)))) return
  begin()
  void again()
}

const { done, ...removing } = useForm()
async function remove(note: Note) {
  done.value = undefined
  if (!(await removing.act(() => removeNote(props.page.id, note.id)))) return
  removing.said(t('notes.removed'), () => bringBack(note))
  if (changed.value?.id === note.id) begin()
  void again()
}
async function bringBack(n: Note) {
  await keepNote(props.page.id, n.id, { edition: props.page.edition, at: n.at, uncut: props.uncut, text: n.text })
  await again()
}

const file = (form: string) => `/api/watch/${props.page.id}/notes/file?form=${form}`
</script>

<template>
  <aside :aria-label="t('notes.name')">
    <form @submit.prevent="keep" @keydown.ctrl.enter.prevent="keep" @keydown.meta.enter.prevent="keep">
      <FormSlot :label="t('notes.at', { at: timecode(moment) })" :fault="form.fields.value.text">
        <template #default="{ id: field_id }">
          <el-input
            :id="field_id"
            ref="field"
            v-model="draft.text"
            type="textarea"
            :autosize="{ minRows: 2, maxRows: 10 }"
            @input="written"
          />
        </template>
      </FormSlot>
      <div class="bar-of-acts">
        <el-button
          native-type="submit"
          type="primary"
          :disabled="!draft.text.trim() || !form.changed.value || form.busy.value"
          >{{ t('notes.keep') }}</el-button
        >
        <el-button v-if="changed || draft.text" link @click="begin()">{{ t('leave') }}</el-button>
      </div>
      <FaultNote v-if="form.whole.value" :error="form.whole.value" />
    </form>
    <FaultNote v-if="list.error.value && !list.data.value" :error="list.error.value" again @again="list.refetch()" />
    <p v-if="list.data.value && notes.length === 0" class="soft small">{{ t('notes.none') }}</p>
    <ol v-else-if="notes.length > 0" class="plain" tabindex="0" :aria-label="t('notes.name')">
      <li v-for="n in notes" :key="n.id">
        <MomentRow :at="n.at" :now="n.id === now" @seek="emit('seek', n.at)"
          ><span class="text"
            ><bdi>{{ n.text }}</bdi></span
          >
          <span v-if="n.struck" class="soft small"> {{ t('notes.struck') }}</span></MomentRow
        >
        <span class="acts">
          <el-button link size="small" :aria-label="t('notes.change_it', { at: timecode(n.at) })" @click="change(n)">{{
            t('notes.change')
          }}</el-button>
          <el-button link size="small" :aria-label="t('notes.remove_it', { at: timecode(n.at) })" @click="remove(n)">{{
            t('notes.remove')
          }}</el-button>
        </span>
      </li>
    </ol>
    <UndoLine v-if="done" v-bind="done" :key="done.key" />
    <FaultNote v-if="removing.problem.value" :error="removing.problem.value" />
    <p v-if="notes.length > 0" class="small take">
      {{ t('said_in.take') }}
      <a :href="file('txt')" download>{{ t('notes.as_text') }}</a>
      <a :href="file('md')" download>{{ t('notes.as_markdown') }}</a>
    </p>
  </aside>
</template>

<style scoped>
aside {
  display: flex;
  flex-direction: column;
  gap: 8px;
  min-height: 0;
}

ol {
  max-height: 48vh;
  overflow-y: auto;
  border: 1px solid var(--rule);
  border-radius: 4px;
  background: var(--shell);
}

li {
  padding-bottom: 4px;
}

.text {
  white-space: pre-line;
  overflow-wrap: anywhere;
}

.acts {
  display: flex;
  gap: 4px;
  padding-inline-start: 67px;
}

.take {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 14px;
}

p {
  margin: 0;
}
</style>
