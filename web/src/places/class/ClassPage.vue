<script setup lang="ts">
/**
 * A lecture as it is held, for those who teach it: who comes and who is here, the chat and its questions, and how the
 * capture goes. It can be left, and opened on another device; nothing here can hold up the capture.
 */
import { useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watchEffect } from 'vue'
import { useI18n } from 'vue-i18n'
import { setChatWay, useChat } from '../../api/chat'
import { keys, useLecture } from '../../api/queries'
import { remindAbsent } from '../../api/register'
import { useDoorway, useLecturePage } from '../../api/timetable'
import FaultNote from '../../parts/FaultNote.vue'
import { useForm } from '../../parts/form'
import { durationText, hoursText } from '../../parts/time'
import { nameTab } from '../../router'
import AtDoor from '../common/AtDoor.vue'
import ChatPane from '../common/chat/ChatPane.vue'
import EndCapture from '../common/EndCapture.vue'
import EndClass from '../common/EndClass.vue'
import RegisterList from '../common/register/RegisterList.vue'
import ToAllPane from '../common/to-all/ToAllPane.vue'
import HallCode from './HallCode.vue'
import LostCurve from './LostCurve.vue'

const props = defineProps<{ lecture: string }>()
const { t } = useI18n()
const client = useQueryClient()
const page = useLecturePage(() => props.lecture)
const it = computed(() => page.data.value)
const l = computed(() => it.value?.lecture)
const zone = computed(() => it.value?.zone ?? 'UTC')
const title = computed(() => l.value?.topic || l.value?.course_title || '')
const sheet = useLecture(() => props.lecture)
const held = computed(() => sheet.data.value?.recordings.find((r) => r.id === it.value?.live)?.length_ms)
const chat = useChat(() => props.lecture)
const door = useDoorway(() => props.lecture)
const nobody = computed(
  () => door.data.value && door.data.value.inside.length === 0 && door.data.value.asking.length === 0,
)
/** Somebody waits at the door: on a phone that stands before all else. */
const asks = computed(() => door.data.value?.asking.some((a) => a.state === 'waits') ?? false)
const coded = ref(false)
const reminding = useForm()
/** To how many was written just now. */
const told = ref<number>()
async function remind() {
  told.value = (await reminding.send(() => remindAbsent(props.lecture)))?.told
}
const ways = ['all', 'teachers', 'off'] as const
const way = useForm()

async function setWay(to: (typeof ways)[number]) {
  await way.send(() => setChatWay(props.lecture, to))
  await client.invalidateQueries({ queryKey: keys.chat(props.lecture) })
}
const file = (form: string) => `/api/lectures/${props.lecture}/chat/file?form=${form}`
watchEffect(() => nameTab(l.value ? `${l.value.course} ${title.value}` : ''))
</script>

<template>
  <FaultNote v-if="page.error.value && !it" :error="page.error.value" again @again="page.refetch()" />
  <div v-else-if="it && l">
    <p class="soft over">
      {{ l.course }} {{ l.course_title }}<template v-if="l.week"> · {{ t('sheet.week', { n: l.week }) }}</template> ·
      {{ hoursText(l.starts_at, l.ends_at, zone) }}<template v-if="l.hall"> · {{ l.hall }}</template>
    </p>
    <h1>{{ title }}</h1>
    <div class="how">
      <p v-if="l.running" :class="{ tally: l.phase === 'runs' || l.phase === 'begins' }" role="status">
        <b>{{ t(`phase.${l.phase || 'runs'}`) }}</b>
        <template v-if="held"> · {{ t('class_page.held', { length: durationText(held) }) }}</template>
      </p>
      <p v-else class="soft">{{ t('class_page.not_captured') }}</p>
      <span class="bar-of-acts push">
        <router-link :to="{ name: 'lecture', params: { lecture } }">{{ t('class_page.to_lecture') }}</router-link>
        <router-link :to="{ name: 'capture-desk', params: { lecture } }">{{ t('class_page.to_desk') }}</router-link>
        <EndCapture v-if="it.live && l.phase === 'broken'" :recording="it.live" :lecture="lecture" />
      </span>
      <EndClass
        v-if="l.state !== 'off' && !l.ahead"
        :lecture="lecture"
        :zone="zone"
        :on="!!l.running || l.state === 'on' || l.state === 'today'"
        :running="!!l.running"
        :recording="sheet.data.value?.recordings[0]?.id"
      />
    </div>
    <p v-if="told !== undefined" role="status">{{ t('register.reminded', { n: told }, told) }}</p>
    <FaultNote v-if="reminding.problem.value" :error="reminding.problem.value" />
    <div class="class">
      <ChatPane :lecture="lecture" :zone="zone" class="talk">
        <p v-if="chat.data.value" class="way small">
          <span id="chat-way">{{ t('class_page.chat_for') }}</span>
          <el-radio-group
            size="small"
            :model-value="chat.data.value.way"
            aria-labelledby="chat-way"
            :disabled="way.busy.value"
            @update:model-value="(v) => setWay(v as (typeof ways)[number])"
          >
            <el-radio-button v-for="w in ways" :key="w" :value="w">{{ t(`class_page.ways.${w}`) }}</el-radio-button>
          </el-radio-group>
        </p>
        <FaultNote v-if="way.problem.value" :error="way.problem.value" />
      </ChatPane>
      <div class="beside-it">
        <ToAllPane v-if="l.state !== 'off'" :lecture="lecture" :course="l.course_id" />
        <section :class="{ first: asks }">
          <h2>{{ t('class_page.here') }}</h2>
          <p v-if="nobody" class="soft small">{{ t('class_page.nobody') }}</p>
          <AtDoor :lecture="lecture" :zone="zone" />
        </section>
        <section>
          <el-button :aria-expanded="coded" @click="coded = !coded">{{
            t(coded ? 'hall.hide' : 'hall.show')
          }}</el-button>
          <HallCode v-if="coded" :lecture="lecture" />
        </section>
        <LostCurve :lecture="lecture" :zone="zone" :from="l.starts_at" :until="l.ends_at" />
        <section>
          <h2>{{ t('class_page.take') }}</h2>
          <p class="small files">
            <a :href="file('txt')" download>{{ t('class_page.as_text') }}</a>
            <a :href="file('csv')" download>{{ t('class_page.as_sheet') }}</a>
          </p>
        </section>
      </div>
    </div>
    <RegisterList
      v-if="l.state !== 'off'"
      v-slot="{ missing }"
      class="who"
      :lecture="lecture"
      :zone="zone"
      :on="l.state === 'on'"
    >
      <el-button
        v-if="l.state === 'on' && missing > 0"
        size="small"
        class="push"
        :title="t('register.remind_help')"
        :disabled="reminding.busy.value"
        @click="remind"
        >{{ t('register.remind', { n: missing }, missing) }}</el-button
      >
    </RegisterList>
  </div>
</template>

<style scoped>
.how {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 22px;
  align-items: baseline;
  margin: 6px 0 14px;
}

.how p {
  margin: 0;
}

.class {
  --chat-high: calc(100vh - 430px);

  display: grid;
  grid-template-columns: minmax(0, 1fr) 340px;
  gap: 26px;
  align-items: start;
}

.who {
  margin-top: 22px;
}

.way {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 12px;
  align-items: center;
  margin: 0;
}

.beside-it {
  display: grid;
  gap: 18px;
}

/* Who waits at the door goes before all else. */
.first {
  order: -1;
}

.files {
  display: flex;
  gap: 18px;
  margin: 4px 0 0;
}

@media (max-width: 820px) {
  .class {
    grid-template-columns: minmax(0, 1fr);
  }

  .beside-it {
    display: contents;
  }
}
</style>
