<script setup lang="ts">
/** The chat of a lecture as it happens: what was said, the questions, and a line to say something oneself. */
import { useQueryClient } from '@tanstack/vue-query'
import { computed, nextTick, ref, useId, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { sayLost, useChat } from '../../../api/chat'
import { keys } from '../../../api/queries'
import FaultNote from '../../../parts/FaultNote.vue'
import UndoLine from '../../../parts/UndoLine.vue'
import { useForm } from '../../../parts/form'
import { useSaying } from '../saying'
import { useChatActs } from './acts'
import ChatLine from './ChatLine.vue'
import DownReason from './DownReason.vue'

const props = defineProps<{
  lecture: string
  zone: string
  /** What plays for who looks, and where they are in it. */
  heard?: () => { recording: string; at: number } | undefined
}>()
const { t } = useI18n()
const client = useQueryClient()
const chat = useChat(() => props.lecture)
const it = computed(() => chat.data.value)
const refresh = () => void client.invalidateQueries({ queryKey: keys.chat(props.lecture) })
const saying = useSaying(() => props.lecture, refresh)
const { act, fault, last } = useChatActs(() => props.lecture, refresh)

const only = ref<'all' | 'questions'>('all')
const waits = computed(() => (it.value?.lines ?? []).filter((l) => !l.gone && l.state !== '' && l.state !== 'answered'))
const shown = computed(() => {
  const lines = it.value?.lines ?? []
  return only.value === 'questions' ? lines.filter((l) => l.state !== '' && !l.gone) : lines
})
/** What waits here and is not among what the server gave. */
const unsent = computed(() => {
  const known = new Set((it.value?.lines ?? []).map((l) => l.id))
  return saying.waiting.value.filter((w) => !w.later && !known.has(w.id))
})

/** The most that the server takes of a line. */
const most = 2000
const text = ref('')
const question = ref(false)
const long = computed(() => [...text.value.trim()].length - most)
const hint = useId()

function put() {
  if (!text.value.trim() || long.value > 0) return
  saying.put({ text: text.value, question: question.value, heard: props.heard?.() })
  text.value = ''
  question.value = false
  void toEnd()
}
/** What was not taken is given back, unless something else is written meanwhile. */
watch(saying.refused, (r) => {
  if (r && !text.value) text.value = r.text
})

const list = ref<HTMLElement>()
/** How many lines came since one last saw the end. */
const fresh = ref(0)
const atEnd = () => !list.value || list.value.scrollHeight - list.value.scrollTop - list.value.clientHeight < 40
async function toEnd() {
  await nextTick()
  if (list.value) list.value.scrollTop = list.value.scrollHeight
  fresh.value = 0
}
watch(
  () => [shown.value.length, unsent.value.length, only.value] as const,
  ([now, , kind], was) => {
    if (!was || kind !== was[2] || atEnd()) void toEnd()
    else fresh.value += Math.max(0, now - was[0])
  },
  { immediate: true, flush: 'pre' },
)

const lost = useForm()
const lostSaid = ref(false)
async function sayIt() {
  lostSaid.value = false
  if (await lost.act(() => sayLost(props.lecture))) lostSaid.value = true
}
</script>

<template>
  <section class="chat" :aria-label="t('chat.name')">
    <div class="bar-of-acts">
      <h2>{{ t('chat.name') }}</h2>
      <el-radio-group v-model="only" size="small" class="push" :aria-label="t('chat.which')">
        <el-radio-button value="all">{{ t('chat.all') }}</el-radio-button>
        <el-radio-button value="questions">{{ t('chat.questions', { n: waits.length }) }}</el-radio-button>
      </el-radio-group>
    </div>
    <slot />
    <FaultNote v-if="chat.error.value && !it" :error="chat.error.value" again @again="chat.refetch()" />
    <template v-if="it">
      <div
        ref="list"
        class="lines"
        role="log"
        tabindex="0"
        :aria-label="t('chat.lines')"
        @scroll="atEnd() && (fresh = 0)"
      >
        <ol v-if="shown.length > 0 || unsent.length > 0" class="plain">
          <li v-for="l in shown" :key="l.id"><ChatLine :line="l" :zone="zone" :teaches="it.teaches" @act="act" /></li>
          <li v-for="u in unsent" :key="u.id" class="unsent">
            <p>
              <bdi>{{ u.text }}</bdi> <span class="soft small">{{ t('chat.unsent') }}</span>
            </p>
          </li>
        </ol>
        <p v-else class="none soft">
          {{ t(only === 'questions' ? 'chat.no_questions' : it.way === 'off' ? 'chat.off' : 'chat.empty') }}
        </p>
      </div>
      <el-button v-if="fresh > 0" size="small" class="fresh" @click="toEnd">{{
        t('chat.fresh', { n: fresh }, fresh)
      }}</el-button>
      <UndoLine v-if="last" :key="last.key" :text="last.text" :undo="last.undo" />
      <DownReason
        v-if="last?.down"
        :key="`why ${last.key}`"
        @why="(why) => act({ do: 'down', line: last!.down!, down: true, why })"
      />
      <FaultNote v-if="fault" :error="fault" />
      <FaultNote v-if="saying.refused.value" :error="saying.refused.value.error" />
      <p v-if="unsent.length > 0 && saying.held.value" class="soft small" role="status">
        {{ saying.held.value.status === 429 ? t('chat.slow') : t('chat.waits') }}
      </p>
      <p v-if="!it.goes" class="soft small">{{ t(it.way === 'off' ? 'chat.is_off' : 'chat.closed') }}</p>
      <form v-else class="say" @submit.prevent="put">
        <el-input
          v-model="text"
          type="textarea"
          :autosize="{ minRows: 1, maxRows: 6 }"
          :placeholder="t(it.way === 'teachers' && !it.teaches ? 'chat.write_teachers' : 'chat.write')"
          :aria-label="t('chat.write_label')"
          :aria-describedby="long > 0 ? hint : undefined"
          :aria-invalid="long > 0"
          @keydown.enter.exact.prevent="put"
        />
        <p v-if="long > 0" :id="hint" class="tally small" role="alert">{{ t('chat.long', { n: long, most }, long) }}</p>
        <div class="bar-of-acts">
          <el-checkbox v-model="question">{{ t('chat.question') }}</el-checkbox>
          <el-button v-if="!it.teaches" link :disabled="lost.busy.value" @click="sayIt">{{ t('chat.lost') }}</el-button>
          <el-button class="push" native-type="submit" type="primary" :disabled="!text.trim() || long > 0">{{
            t('chat.say')
          }}</el-button>
        </div>
      </form>
      <p v-if="lostSaid" class="soft small" role="status">{{ t('chat.lost_said') }}</p>
      <FaultNote v-if="lost.problem.value" :error="lost.problem.value" />
    </template>
  </section>
</template>

<style scoped>
.chat {
  display: flex;
  flex-direction: column;
  gap: 8px;
  min-height: 0;
}

.lines {
  flex: 1;
  min-height: 180px;
  max-height: var(--chat-high, 52vh);
  overflow-y: auto;
  padding: 4px 0;
  border: 1px solid var(--rule);
  border-radius: 4px;
  background: var(--shell);
}

.unsent {
  padding: 4px 12px;
  border-inline-start: 3px dotted var(--rule-strong);
}

.unsent p {
  margin: 0;
  overflow-wrap: anywhere;
}

.none {
  margin: 0;
  padding: 8px 12px;
}

.fresh {
  align-self: center;
}

.chat > p {
  margin: 0;
}

.say {
  display: grid;
  gap: 6px;
}

.say p {
  margin: 0;
}
</style>
