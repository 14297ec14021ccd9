<script setup lang="ts">
/** Takes a recording that was made elsewhere and sends it for a lecture, going on after interruptions. */
import { useQueryClient } from '@tanstack/vue-query'
import { Upload, type DetailedError } from 'tus-js-client'
import { computed, onScopeDispose, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { Problem, toProblem } from '../api/client'
import { fileHere, keys } from '../api/queries'
import type { Schemas } from '../api/client'
import FaultNote from './FaultNote.vue'
import { likeness } from './likeness'
import { megabytes } from './time'

const props = defineProps<{ lecture: string }>()
const { t } = useI18n()
const client = useQueryClient()

const over = ref(false)
const name = ref('')
const sent = ref(0)
const total = ref(0)
const state = ref<'idle' | 'known' | 'sending' | 'waiting' | 'sent'>('idle')
const fault = ref<unknown>()
const recording = ref('')
const input = ref<HTMLInputElement>()
const here = ref<Schemas['FilesHere']>()
let known: File | undefined
let upload: Upload | undefined

const percent = computed(() => (total.value > 0 ? Math.floor((sent.value / total.value) * 100) : 0))

function problemOf(error: Error): Problem {
  const answer = (error as Partial<DetailedError>).originalResponse
  if (!answer) return new Problem(0, 'unreachable', '')
  let body: unknown
  try {
    body = JSON.parse(answer.getBody())
  } catch {
    body = undefined
  }
  return toProblem(answer.getStatus(), body)
}

/** The field is emptied, so that the same file can be chosen again. */
function chosen() {
  const file = input.value?.files?.[0]
  if (input.value) input.value.value = ''
  void take(file)
}

async function take(file: File | undefined) {
  if (!file || state.value === 'sending' || state.value === 'waiting') return
  fault.value = undefined
  recording.value = ''
  if (file.size === 0) {
    fault.value = new Problem(0, 'empty_file', '')
    return
  }
  name.value = file.name
  here.value = await alreadyHere(file)
  if (here.value) {
    known = file
    state.value = 'known'
    return
  }
  await send(file)
}

/** A file that is here already is said to be before it is sent. Where that cannot be known it is sent. */
async function alreadyHere(file: File): Promise<Schemas['FilesHere'] | undefined> {
  try {
    const print = await likeness(file)
    const found = print ? await fileHere(print) : undefined
    return found && found.here.length + found.elsewhere > 0 ? found : undefined
  } catch {
    return undefined
  }
}

async function send(file: File) {
  sent.value = 0
  total.value = file.size
  state.value = 'sending'
  upload = new Upload(file, {
    endpoint: '/api/append',
    chunkSize: 32 * 1024 * 1024,
    retryDelays: [500, 1000, 2000, 2000, 4000, 8000, 8000],
    removeFingerprintOnSuccess: true,
    metadata: { filename: file.name, filetype: file.type, lecture: props.lecture, source: 'file' },
    fingerprint: async (f) => ['late-lantern', props.lecture, f.name, f.size, f.lastModified].join('|'),
    onAfterResponse: (_, answer) => {
      recording.value = answer.getHeader('Late-Lantern-Recording') ?? recording.value
    },
    onShouldRetry: () => {
      state.value = 'waiting'
      return true
    },
    onProgress: (done) => {
      state.value = 'sending'
      sent.value = done
    },
    onSuccess: () => {
      state.value = 'sent'
      sent.value = total.value
      void client.invalidateQueries({ queryKey: keys.lecture(props.lecture) })
      void client.invalidateQueries({ queryKey: keys.board })
    },
    onError: (error) => {
      state.value = 'idle'
      fault.value = problemOf(error)
    },
  })
  const before = await upload.findPreviousUploads()
  if (before[0]) upload.resumeFromPreviousUpload(before[0])
  upload.start()
}

async function stop() {
  await upload?.abort(true).catch(() => undefined) // what was sent is taken back as soon as the server is reached
  state.value = 'idle'
}

function drop(e: DragEvent) {
  over.value = false
  void take(e.dataTransfer?.files[0])
}

onScopeDispose(() => void upload?.abort().catch(() => undefined))
</script>

<template>
  <div class="drop" :class="{ over }" @dragover.prevent="over = true" @dragleave="over = false" @drop.prevent="drop">
    <template v-if="state === 'idle'">
      <p class="soft">{{ t('file.text') }}</p>
      <button class="act quiet" type="button" @click="input?.click()">{{ t('file.choose') }}</button>
    </template>
    <template v-else-if="state === 'known' && here">
      <p role="status">
        <b>{{ name }}</b> {{ t('file.here') }}
      </p>
      <ul class="plain">
        <li v-for="x in here.here" :key="x.recording_id">
          <router-link :to="{ name: 'trim-bench', params: { recording: x.recording_id } }">{{ x.title }}</router-link>
          <span v-if="x.deleted" class="soft small"> {{ t('file.here_deleted') }}</span>
        </li>
        <li v-if="here.elsewhere > 0" class="soft">{{ t('file.here_elsewhere') }}</li>
      </ul>
      <div class="bar-of-acts">
        <button class="act quiet" type="button" @click="state = 'idle'">{{ t('file.here_leave') }}</button>
        <button class="word" type="button" @click="known && send(known)">{{ t('file.here_send') }}</button>
      </div>
    </template>
    <template v-else>
      <p>
        <b>{{ name }}</b>
      </p>
      <el-progress :percentage="percent" :aria-label="t('file.progress', { name })" />
      <p class="soft" role="status">
        <template v-if="state === 'sent'">{{ t('file.sent') }}</template>
        <template v-else-if="state === 'waiting'">{{ t('file.waiting') }}</template>
        <template v-else>{{ t('file.sending', { done: megabytes(sent), all: megabytes(total) }) }}</template>
      </p>
      <router-link
        v-if="state === 'sent' && recording"
        class="act quiet"
        :to="{ name: 'trim-bench', params: { recording } }"
        >{{ t('file.open') }}</router-link
      >
      <button v-else-if="state !== 'sent'" class="word" type="button" @click="stop">{{ t('file.stop') }}</button>
    </template>
    <input
      ref="input"
      class="away"
      type="file"
      accept="video/*,audio/*,.mkv,.mp4,.webm"
      :aria-label="t('file.choose')"
      tabindex="-1"
      @change="chosen"
    />
    <FaultNote v-if="fault" :error="fault" />
  </div>
</template>

<style scoped>
.drop {
  position: relative;
  padding: 14px 16px;
  border: 1px dashed var(--edge);
  border-radius: 4px;
}

.over {
  border-style: solid;
  background: var(--kelp-soft);
}
</style>
