<script setup lang="ts">
/** What stands beside the picture: the words, and what was said in the chat; of what goes on live the chat itself. */
import { useStorage } from '@vueuse/core'
import { computed, defineAsyncComponent, ref, watchEffect } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'
import TranscriptSide from './TranscriptSide.vue'

const ChatPane = defineAsyncComponent(() => import('../common/chat/ChatPane.vue'))
const LiveQuestion = defineAsyncComponent(() => import('../common/to-all/LiveQuestion.vue'))
const NotesSide = defineAsyncComponent(() => import('./NotesSide.vue'))
const WhoElse = defineAsyncComponent(() => import('./WhoElse.vue'))
const ChatSide = defineAsyncComponent(() => import('./ChatSide.vue'))

const props = defineProps<{
  page: Schemas['Watch']
  cues: Schemas['Cue'][]
  /** What was said; of what goes on live it comes by itself. */
  said?: Schemas['SaidIn']
  /** In which language the words are. */
  language: string
  at: number
  /** It plays as it was captured. */
  uncut: boolean
}>()
const emit = defineEmits<{ seek: [ms: number] }>()
const { t } = useI18n()
/** Whoever has an account can propose what a line should say. */
const of = computed(() =>
  props.page.account || props.page.as_staff
    ? { recording: props.page.id, edition: props.page.edition, language: props.language }
    : undefined,
)
/** What stands there is remembered in this browser. */
type Pane = 'words' | 'chat' | 'notes'
const wanted = useStorage<Pane>('late-lantern-beside', 'words')
const panes = computed(() => {
  const there = { words: props.cues.length > 0, chat: props.page.live || (props.said?.lines.length ?? 0) > 0 }
  const all: Record<Pane, boolean> = { ...there, notes: props.page.notes }
  return (['words', 'chat', 'notes'] as const).filter((p) => all[p])
})
/** What one began to note stays while one looks at something else. */
const noting = ref(false)
const shown = computed(() => panes.value.find((p) => p === wanted.value) ?? panes.value[0])
watchEffect(() => (noting.value ||= shown.value === 'notes'))
</script>

<template>
  <div class="side">
    <LiveQuestion v-if="page.live" :lecture="page.lecture_id" />
    <el-radio-group
      v-if="panes.length > 1"
      :model-value="shown"
      :aria-label="t('said_in.beside')"
      @update:model-value="(p) => (wanted = p as Pane)"
    >
      <el-radio-button v-for="p in panes" :key="p" :value="p"
        >{{ t(`said_in.pane.${p}`)
        }}<template v-if="p === 'chat' && said"> ({{ said.lines.length }})</template></el-radio-button
      >
    </el-radio-group>
    <WhoElse v-if="page.live" :lecture="page.lecture_id" />
    <NotesSide
      v-if="noting"
      v-show="shown === 'notes'"
      :page="page"
      :at="at"
      :uncut="uncut"
      @seek="(ms) => emit('seek', ms)"
    />
    <TranscriptSide v-if="shown === 'words'" :cues="cues" :at="at" :of="of" @seek="(ms) => emit('seek', ms)" />
    <ChatPane
      v-else-if="shown === 'chat' && page.live"
      :lecture="page.lecture_id"
      :zone="page.zone"
      :heard="() => ({ recording: page.id, at })"
    />
    <ChatSide
      v-else-if="shown === 'chat' && said"
      :page="page"
      :said="said"
      :at="at"
      @seek="(ms) => emit('seek', ms)"
    />
  </div>
</template>

<style scoped>
.side {
  display: flex;
  flex-direction: column;
  gap: 10px;
  min-width: 0;
}

@media print {
  .el-radio-group {
    display: none;
  }
}
</style>
