<script setup lang="ts">
/** A line of captions: heard, corrected where it stands, kept as one goes. */
import { computed, nextTick, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Correction } from '../../api/captions'
import { Problem, type Schemas } from '../../api/client'
import FaultNote from '../../parts/FaultNote.vue'
import { useForm } from '../../parts/form'
import ChoiceList from '../../parts/ChoiceList.vue'
import { timecode } from '../../parts/time'

const props = defineProps<{
  line: Schemas['CaptionLine']
  /** It is the one that is worked on. */
  open: boolean
  /** It is said just now. */
  now: boolean
  /** What is looked for stands in it. */
  found: boolean
  /** The lines are a draft, so that what was corrected is told from what was not. */
  draft: boolean
  last: boolean
  /** How many other lines have the same speaker. */
  others: number
  /** Who speaks in any of them. */
  speakers: string[]
  keep: (c: Correction) => Promise<unknown>
}>()
const emit = defineEmits<{ come: []; next: []; before: []; play: []; toggle: []; part: [at: number]; join: [] }>()
const { t } = useI18n()
/** What is written is kept as one leaves the line, so nothing is asked. */
const { draft, problem: fault, act, reset } = useForm(() => ({ text: props.line.text }), false)
const all = ref(true)
const box = ref<HTMLTextAreaElement>()
/** What was written here, of a line that someone else has changed meanwhile. */
const lost = ref('')

async function send(c: Omit<Correction, 'seen'>) {
  const kept = await act(() => props.keep({ seen: props.line.text, ...c }))
  const other = fault.value instanceof Problem && fault.value.kind === 'other_line'
  if (kept || other) lost.value = (other && c.text) || ''
  if (other) {
    fault.value = undefined
    await nextTick()
    reset()
  }
  return kept
}

/** keepText keeps what was written; a line left without words stays as it was, there is a press to take it away. */
async function keepText() {
  const written = draft.value.text.trim()
  if (written === '') reset()
  if (written === '' || written === props.line.text) return true
  return send({ text: written })
}

async function keepSpeaker(written: string) {
  const name = written.trim()
  if (name === (props.line.speaker ?? '')) return
  void nextTick(focus) // at once: when it is kept one may be elsewhere
  await send({ speaker: name, all: all.value && props.others > 0 })
}

async function part() {
  const at = box.value?.selectionStart ?? 0
  if (await keepText()) emit('part', at)
}

let rowWanted = false

async function key(e: KeyboardEvent) {
  rowWanted = e.key === 'Enter' && e.shiftKey
  if (e.key === 'Enter' && e.ctrlKey) {
    e.preventDefault()
    await part()
  } else if (e.key === 'Enter' && !e.shiftKey) {
    e.preventDefault()
    if (await keepText()) emit('next')
  } else if (e.key === ' ' && e.ctrlKey) {
    e.preventDefault()
    emit('toggle')
  } else if (e.altKey && e.key === 'ArrowDown') {
    e.preventDefault()
    emit('next')
  } else if (e.altKey && e.key === 'ArrowUp') {
    e.preventDefault()
    emit('before')
  } else if (e.key === 'Escape') {
    reset()
  }
}

/** The enter key brings one here, and leads on: only with shift does it make a new row. */
function before(e: InputEvent) {
  if (e.inputType === 'insertLineBreak' && !rowWanted) e.preventDefault()
}

/** The words of which the captioner was hardly sure. */
const unsure = computed(() => {
  const words = props.line.text.split(/\s+/)
  return (props.line.unsure ?? []).map((n) => words[n]).join(', ')
})
const focus = () => box.value?.focus()
defineExpose({ focus })
</script>

<template>
  <li :class="{ open, now, found, unsure: draft && !line.corrected }" :data-line="line.id">
    <el-button class="mono soft at" :aria-label="`${t('player.play')} ${timecode(line.start)}`" @click="emit('play')">
      {{ timecode(line.start) }}
    </el-button>
    <div>
      <p v-if="line.speaker && !open" class="small who">{{ line.speaker }}</p>
      <textarea
        ref="box"
        v-model="draft.text"
        rows="1"
        maxlength="600"
        spellcheck="true"
        :aria-label="t('captions.text', { at: timecode(line.start) })"
        @focus="emit('come')"
        @change="keepText"
        @keydown="key"
        @beforeinput="before($event as InputEvent)"
      />
      <p v-if="unsure" class="soft small hardly">{{ t('captions.unsure', { words: unsure }) }}</p>
      <div v-if="open" class="tools small">
        <ChoiceList
          :model-value="line.speaker ?? ''"
          bare
          :label="t('captions.by')"
          :options="['', ...speakers].map((s) => ({ value: s, text: s || t('captions.nobody') }))"
          create
          @update:model-value="keepSpeaker"
        />
        <el-checkbox v-if="line.speaker && others > 0" v-model="all">{{
          t('captions.by_all', { n: others + 1, name: line.speaker })
        }}</el-checkbox>
        <el-button link @mousedown.prevent @click="part">{{ t('captions.part') }}</el-button>
        <el-button v-if="!last" link @click="emit('join')">{{ t('captions.join') }}</el-button>
        <el-button link @click="send({ text: '' })">{{ t('captions.take_away') }}</el-button>
      </div>
      <p v-if="lost" class="small" role="alert">{{ t('captions.other', { text: lost }) }}</p>
      <FaultNote v-if="fault" :error="fault" />
    </div>
    <span v-if="draft && !line.corrected" class="small soft sign">{{ t('captions.mark_draft') }}</span>
  </li>
</template>

<style scoped>
li {
  display: grid;
  grid-template-columns: 64px minmax(0, 1fr) 48px;
  gap: 0 8px;
  align-items: start;
  padding: 2px 8px;
  border-inline-start: 3px solid transparent;
  contain-intrinsic-size: auto 34px;
  content-visibility: auto;
}

.open {
  border-color: var(--kelp);
  background: var(--kelp-soft);
}

.now .at {
  color: var(--kelp);
  font-weight: 700;
  text-decoration: underline;
}

.found textarea {
  border-bottom: 2px solid var(--kelp);
}

.at.at.at {
  color: var(--ink-2);
  font: 13px/1.4 var(--mono);
  min-height: 30px;
  padding: 4px 0;
  border: 0;
  background: none;
  justify-content: flex-end;
  cursor: pointer;
}

.who {
  margin: 4px 0 0 7px;
  font-weight: 700;
}

textarea {
  display: block;
  width: 100%;
  padding: 4px 6px;
  border: 1px solid transparent;
  border-radius: 3px;
  background: none;
  color: var(--ink);
  font: inherit;
  resize: none;
  field-sizing: content;
}

textarea:hover {
  border-color: var(--rule-strong);
}

textarea:focus-visible {
  outline-offset: 0;
  background: var(--shell);
}

.unsure textarea {
  color: var(--ink-2);
  font-style: italic;
}

.sign {
  padding-top: 6px;
}

.tools {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
  align-items: center;
  margin: 4px 0 6px 7px;
}
</style>
