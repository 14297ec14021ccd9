<script setup lang="ts">
/** A file of captions comes in: what is to be known about it is said before it is taken. */
import { ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { takeCaptions } from '../../api/captions'
import { base64 } from '../../parts/base64'
import type { Schemas } from '../../api/client'
import FaultNote from '../../parts/FaultNote.vue'
import { useForm } from '../../parts/form'
import FilePick from '../../parts/FilePick.vue'
import LineFaults from '../../parts/LineFaults.vue'
import PageSheet from '../../parts/PageSheet.vue'
import { timecode } from '../../parts/time'

const props = defineProps<{ open: boolean; recording: string; published: boolean }>()
const emit = defineEmits<{ close: []; taken: [language: string, lines: number] }>()
const { t } = useI18n()
const language = ref('')
const onPublished = ref(false)
const look = ref<Schemas['CaptionFileLook']>()
const form = useForm()
const { busy, problem } = form
const large = ref('')
let content = ''

async function send(noted: boolean) {
  const answer = await form.send(() =>
    takeCaptions(props.recording, {
      content,
      language: language.value.trim() || undefined,
      published: onPublished.value,
      noted,
    }),
  )
  look.value = answer
  if (answer?.taken) emit('taken', answer.language, answer.lines)
}

async function chosen(list: File[]) {
  const file = list[0]!
  look.value = undefined
  problem.value = undefined
  large.value = file.size > 16 << 20 ? t('caption_file.too_large', { n: Math.round(file.size / (1 << 20)) }) : ''
  if (large.value) return
  content = await base64(file)
  await send(false)
}
</script>

<template>
  <PageSheet :open="open" :title="t('caption_file.title')" @close="emit('close')">
    <p class="soft">{{ t('caption_file.help') }}</p>
    <div class="field">
      <label for="file-language">{{ t('caption_file.language') }}</label>
      <el-input
        id="file-language"
        v-model="language"
        class="short"
        maxlength="35"
        aria-describedby="file-language-hint"
      />
      <p id="file-language-hint" class="soft small">{{ t('caption_file.language_hint') }}</p>
    </div>
    <el-checkbox v-if="published" v-model="onPublished" class="field">{{ t('caption_file.published') }}</el-checkbox>
    <FilePick :text="t('caption_file.choose')" accept=".vtt,.srt,text/vtt" @files="chosen" />
    <p v-if="large" role="alert" class="tally">{{ large }}</p>
    <FaultNote v-if="problem" :error="problem" />
    <template v-if="look && !look.taken">
      <LineFaults
        v-if="look.all_faults > 0"
        grave
        :list="look.faults"
        :all="look.all_faults"
        :title="t('caption_file.faults')"
      />
      <LineFaults
        v-if="look.notes.length > 0"
        :list="look.notes"
        :all="look.notes.length"
        :title="t('caption_file.notes')"
      />
      <template v-if="look.sample.length > 0">
        <p>{{ t('caption_file.sample') }}</p>
        <ol class="plain sample">
          <li v-for="(l, n) in look.sample" :key="n">
            <span class="mono soft">{{ timecode(l.start) }}</span> {{ l.text }}
          </li>
        </ol>
      </template>
      <p v-if="look.all_faults === 0">
        <el-button type="primary" :disabled="busy" @click="send(true)">
          {{ t('caption_file.all_the_same') }}
        </el-button>
      </p>
    </template>
  </PageSheet>
</template>

<style scoped>
.sample {
  margin: 0 0 14px;
  padding: 8px 12px;
  border-inline-start: 3px solid var(--rule-strong);
}
</style>
