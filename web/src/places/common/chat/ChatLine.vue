<script setup lang="ts">
/** One line of a chat: who, when, what; of a question how far it is; and what can be done with it. */
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import type { ChatLine, ChatState } from '../../../api/chat'
import { clockText, timecode } from '../../../parts/time'
import AnswerForm from './AnswerForm.vue'
import type { ChatAct } from './acts'

const props = defineProps<{
  line: ChatLine
  zone: string
  /** Who looks teaches it. */
  teaches: boolean
  /** It stands at its moment in what plays, to which it leads. */
  moment?: boolean
  now?: boolean
}>()
const emit = defineEmits<{ act: [what: ChatAct]; seek: [] }>()
const { t } = useI18n()
const open = ref(false)
const answering = ref(false)
const when = computed(() =>
  props.moment && props.line.at !== undefined ? timecode(props.line.at) : clockText(props.line.said_at, props.zone),
)
/** What a question waits for next, for those who teach. */
const next = computed<ChatState | ''>(() =>
  !props.teaches || props.line.gone
    ? ''
    : props.line.state === 'open'
      ? 'taken'
      : props.line.state === 'taken'
        ? 'answered'
        : '',
)
/** What else can be said of it. */
const others = computed<ChatState[]>(() => {
  const all: ChatState[] = props.line.later
    ? ['open', 'taken', 'answered', 'put_off']
    : ['', 'open', 'taken', 'answered', 'put_off']
  return all.filter((s) => s !== props.line.state && s !== next.value)
})
const has = computed(() => !props.line.gone && (props.line.mine || props.teaches))

function act(what: ChatAct) {
  open.value = answering.value = false
  emit('act', what)
}
const mark = (state: ChatState, answer = '', shown = props.line.shown) =>
  act({ do: 'mark', line: props.line, state, answer, shown })
</script>

<template>
  <div class="chat-line" :class="{ question: line.state !== '', gone: line.gone, current: now }">
    <p class="who">
      <bdi class="name">{{ line.name || t('chat.someone') }}</bdi>
      <span v-if="line.teaches" class="soft small">{{ t('chat.teaches') }}</span>
      <span v-else-if="line.guest" class="soft small">{{ t('at_door.guest') }}</span>
      <span v-if="line.to_teachers && !line.later" class="soft small">{{ t('chat.to_teachers') }}</span>
      <el-button
        v-if="moment"
        link
        class="push mono at"
        :aria-label="t('chat.go_to', { at: when })"
        @click="emit('seek')"
        >{{ when }}</el-button
      >
      <span v-else class="push mono soft at">{{ when }}</span>
      <el-button
        v-if="has"
        link
        class="small at"
        :aria-expanded="open"
        :aria-label="t('chat.more_it', { name: line.name })"
        @click="open = !open"
        >{{ t('chat.more') }}</el-button
      >
    </p>
    <p v-if="line.gone" class="soft small">
      {{ t(line.gone === 'withdrawn' ? (line.mine ? 'chat.withdrawn_mine' : 'chat.withdrawn') : 'chat.down') }}
      <template v-if="line.down">
        {{ t('chat.down_by', { who: line.down.by }) }} <bdi v-if="line.down.why">{{ line.down.why }}</bdi>
      </template>
    </p>
    <p v-if="line.text" class="text">
      <bdi>{{ line.text }}</bdi>
    </p>
    <div v-if="line.answer" class="answer">
      <p class="who">
        <bdi class="name">{{ line.answered_by }}</bdi>
        <span v-if="line.shown" class="soft small">{{ t('chat.shown') }}</span>
      </p>
      <p class="text">
        <bdi>{{ line.answer }}</bdi>
      </p>
    </div>
    <div v-if="line.state !== '' || line.gone" class="acts">
      <span v-if="line.state !== ''" class="state" :class="line.state">{{ t(`chat.state.${line.state}`) }}</span>
      <el-button
        v-if="next"
        size="small"
        :aria-label="t(`chat.to_it.${next}`, { name: line.name })"
        @click="mark(next)"
        >{{ t(`chat.to.${next}`) }}</el-button
      >
      <el-button
        v-if="line.gone === 'withdrawn' && line.mine"
        link
        size="small"
        @click="act({ do: 'bring_back', line })"
        >{{ t('chat.bring_back') }}</el-button
      >
      <el-button
        v-if="line.gone === 'taken_down' && teaches"
        link
        size="small"
        @click="act({ do: 'down', line, down: false })"
        >{{ t('chat.let_stand') }}</el-button
      >
    </div>
    <div v-if="open && has" class="acts more">
      <template v-if="teaches">
        <el-button v-if="line.state !== ''" size="small" @click="answering = !answering">{{
          t('chat.answer')
        }}</el-button>
        <el-button v-for="s in others" :key="s" size="small" @click="mark(s)">{{
          t(s === 'open' && line.state === '' ? 'chat.to.question' : `chat.to.${s || 'line'}`)
        }}</el-button>
        <el-button v-if="line.later && line.answer" size="small" @click="mark('answered', line.answer, !line.shown)">{{
          t(line.shown ? 'chat.show_no_more' : 'chat.show_all')
        }}</el-button>
        <el-button size="small" @click="act({ do: 'down', line, down: true })">{{ t('chat.take_down') }}</el-button>
      </template>
      <template v-else-if="line.mine && !line.later && (line.state === '' || line.state === 'open')">
        <el-button size="small" @click="act({ do: 'turn', line, question: line.state === '' })">{{
          t(line.state === '' ? 'chat.to.question' : 'chat.to.line')
        }}</el-button>
      </template>
      <el-button v-if="line.mine" size="small" @click="act({ do: 'withdraw', line })">{{
        t('chat.withdraw')
      }}</el-button>
    </div>
    <AnswerForm
      v-if="answering"
      :text="line.answer"
      :shown="line.shown"
      :later="line.later"
      @answer="(text, shown) => mark('answered', text, shown)"
    />
  </div>
</template>

<style scoped>
.chat-line {
  margin: 3px 0;
  padding: 6px 12px 7px;
  border-inline-start: 3px solid transparent;
}

.question {
  border-inline-start-color: var(--kelp);
}

.current {
  background: var(--kelp-soft);
}

.who,
.text {
  margin: 0;
}

.who {
  display: flex;
  gap: 8px;
  align-items: baseline;
}

.name {
  overflow: hidden;
  font-weight: 600;
  text-overflow: ellipsis;
}

.at {
  flex: none;
}

.text {
  overflow-wrap: anywhere;
  white-space: pre-line;
}

.gone .text {
  color: var(--ink-2);
  text-decoration: line-through;
}

.gone > p {
  margin: 0;
}

.answer {
  margin: 4px 0 2px;
  padding-inline-start: 12px;
  border-inline-start: 1px solid var(--rule-strong);
}

.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 10px;
  align-items: center;
  min-height: 24px;
}

.acts .el-button {
  margin: 0;
}

.acts .el-button:not(.is-link) {
  min-height: 26px;
  height: 26px;
  padding: 0 10px;
  font-size: 13px;
}

.more {
  margin-top: 2px;
}

.state {
  padding: 0 7px;
  border: 1px solid var(--rule-strong);
  border-radius: 3px;
  font-size: 12px;
  line-height: 20px;
}

.state.open {
  border-color: var(--kelp);
  font-weight: 600;
}

.state.answered {
  border-style: dotted;
  color: var(--ink-2);
}
</style>
