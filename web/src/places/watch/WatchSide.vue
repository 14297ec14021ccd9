<script setup lang="ts">
/** What stands beside the picture: the words, and what was said in the chat; of what goes on live the chat itself. */
import { useStorage } from '@vueuse/core'
import { computed, defineAsyncComponent } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'
import TranscriptSide from './TranscriptSide.vue'

const ChatPane = defineAsyncComponent(() => import('../common/chat/ChatPane.vue'))
const LiveQuestion = defineAsyncComponent(() => import('../common/to-all/LiveQuestion.vue'))
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
const wanted = useStorage<'words' | 'chat'>('late-lantern-beside', 'words')
const both = computed(() => props.cues.length > 0 && (props.page.live || (props.said?.lines.length ?? 0) > 0))
const shown = computed(() => (both.value ? wanted.value : props.cues.length > 0 ? 'words' : 'chat'))
</script>

<template>
  <div class="side">
    <LiveQuestion v-if="page.live" :lecture="page.lecture_id" />
    <el-radio-group v-if="both" v-model="wanted" :aria-label="t('said_in.beside')">
      <el-radio-button value="words">{{ t('said_in.words') }}</el-radio-button>
      <el-radio-button value="chat"
        >{{ t('said_in.name') }}<template v-if="said"> ({{ said.lines.length }})</template></el-radio-button
      >
    </el-radio-group>
    <WhoElse v-if="page.live" :lecture="page.lecture_id" />
    <TranscriptSide v-if="shown === 'words'" :cues="cues" :at="at" :of="of" @seek="(ms) => emit('seek', ms)" />
    <ChatPane
      v-else-if="page.live"
      :lecture="page.lecture_id"
      :zone="page.zone"
      :heard="() => ({ recording: page.id, at })"
    />
    <ChatSide v-else-if="said" :page="page" :said="said" :at="at" @seek="(ms) => emit('seek', ms)" />
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
