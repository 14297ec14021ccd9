<script setup lang="ts">
/** The page of one lecture. Its address never changes, whenever and wherever it is held. */
import { useQueryClient } from '@tanstack/vue-query'
import { computed, defineAsyncComponent, ref, watchEffect } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRouter } from 'vue-router'
import { Problem } from '../../api/client'
import { useMe } from '../../api/me'
import { keys, useCollege } from '../../api/queries'
import { askToEnter, useLecturePage } from '../../api/timetable'
import CopyLine from '../../parts/CopyLine.vue'
import DateLine from '../../parts/DateLine.vue'
import FaultNote from '../../parts/FaultNote.vue'
import { useForm } from '../../parts/form'
import { clockText, dateText, dayAndClock, hoursText } from '../../parts/time'
import { nameTab } from '../../router'
import ClosedDoor from '../watch/ClosedDoor.vue'
import DoorwaySide from './DoorwaySide.vue'
import HallSign from './HallSign.vue'
import EditLecture from './EditLecture.vue'

/** Few lectures are on while one looks at their page. */
const ChatPane = defineAsyncComponent(() => import('../common/chat/ChatPane.vue'))
const LiveQuestion = defineAsyncComponent(() => import('../common/to-all/LiveQuestion.vue'))
const RegisterList = defineAsyncComponent(() => import('../common/register/RegisterList.vue'))

const props = defineProps<{ lecture: string }>()
const { t } = useI18n()
const me = useMe()
const router = useRouter()
const client = useQueryClient()
const college = useCollege()
const page = useLecturePage(() => props.lecture)
const it = computed(() => page.data.value)
const l = computed(() => it.value?.lecture)
const zone = computed(() => it.value?.zone ?? 'UTC')
const title = computed(() => l.value?.topic || l.value?.course_title || '')
const address = computed(() => window.location.origin + router.resolve({ name: 'lecture', params: props }).href)
const isToday = computed(() => l.value?.state === 'today' || l.value?.state === 'on')
const closed = computed(() => {
  const e = page.error.value
  return e instanceof Problem && (e.status === 403 || e.status === 404) ? e : undefined
})
const editing = ref(false)
const { busy, problem, send } = useForm()

/** What the door says, in a sentence. */
const door = computed(() => {
  const x = it.value
  if (!x) return ''
  if (x.standing.reason === 'not_yet') return t('standing.not_yet', { at: dayAndClock(x.lecture.opens_at, zone.value) })
  if ((x.lecture.state === 'over' || x.lecture.ahead) && !x.live) return ''
  if (x.standing.enter && !x.live) return x.lecture.state === 'off' ? '' : t('standing.wait')
  if (x.standing.reason === 'ask' && x.standing.word) return t('standing.not_let_in')
  return t(`standing.${x.standing.reason}`)
})

async function askIn() {
  const got = await send(() => askToEnter(props.lecture))
  if (got) client.setQueryData(keys.lecturePage(props.lecture), got)
}

watchEffect(() => nameTab(l.value ? `${l.value.course} ${title.value}` : ''))
</script>

<template>
  <ClosedDoor v-if="closed" :problem="closed" />
  <FaultNote v-else-if="page.error.value && !it" :error="page.error.value" again @again="page.refetch()" />
  <div v-else-if="it && l" class="with-side lecture">
    <section>
      <p class="soft over">
        <router-link v-if="!me.data.value?.guest_of" :to="{ name: 'course', params: { course: l.course_id } }"
          >{{ l.course }} {{ l.course_title }}</router-link
        >
        <template v-else>{{ l.course }} {{ l.course_title }}</template>
        <template v-if="l.week"> · {{ t('sheet.week', { n: l.week }) }}</template>
      </p>
      <h1 :class="{ gone: l.state === 'off' }">{{ title }}</h1>
      <p v-if="!l.ahead" class="when">
        <b v-if="isToday">{{ t('date.today') }}</b>
        {{ dateText(l.starts_at, zone) }}, {{ hoursText(l.starts_at, l.ends_at, zone) }}
        <template v-if="l.hall"> · {{ l.hall }}</template>
      </p>
      <p v-if="l.state === 'off'" class="state">
        <b>{{ t('lecture.off') }}</b>
      </p>
      <p v-else-if="l.was" class="state">{{ t('lecture.moved', { from: dayAndClock(l.was, zone) }) }}</p>
      <p v-if="l.unplanned" class="state">{{ t(l.ahead ? 'lecture.ahead' : 'lecture.unplanned') }}</p>

      <div v-if="it.today" class="page other">
        <h2>{{ t('lecture.today_is') }}</h2>
        <DateLine :date="it.today" :zone="zone" today />
      </div>

      <div class="page now">
        <p v-if="l.running" :class="{ tally: l.phase === 'runs' || l.phase === 'begins' }">
          <b>{{ l.phase === 'paused' || l.phase === 'broken' ? t(`live.${l.phase}`) : t('lecture.captured') }}</b>
        </p>
        <p v-if="l.running">{{ college.data.value?.capture_notice || t('notice.text') }}</p>
        <p v-if="door">{{ door }}</p>
        <blockquote v-if="it.standing.word && !it.standing.enter" class="word">
          {{ t('at_door.said', { word: it.standing.word }) }}
        </blockquote>
        <div class="bar-of-acts">
          <el-button
            v-if="it.live"
            tag="router-link"
            type="primary"
            :to="{ name: 'watch', params: { recording: it.live } }"
            >{{ t('lecture.come_in') }}</el-button
          >
          <el-button v-else-if="it.standing.reason === 'ask'" type="primary" :disabled="busy" @click="askIn">
            {{ t('lecture.ask') }}
          </el-button>
          <el-button
            v-if="l.recording_id"
            tag="router-link"
            type="primary"
            :to="{ name: 'watch', params: { recording: l.recording_id } }"
            >{{ t('lecture.watch') }}</el-button
          >
          <el-button
            v-if="it.staff && l.state !== 'off'"
            tag="router-link"
            :type="l.state === 'planned' || l.state === 'over' || it.live ? 'default' : 'primary'"
            :to="{ name: 'capture-desk', params: { lecture } }"
            >{{ t('lecture.capture') }}</el-button
          >
          <el-button
            v-if="it.staff && l.state !== 'off' && !l.ahead"
            tag="router-link"
            :to="{ name: 'class', params: { lecture } }"
            >{{ t('class_page.name') }}</el-button
          >
        </div>
        <p v-if="!it.staff && l.state === 'over' && !l.recording_id && !l.running" class="soft">
          {{ l.phase === 'over' ? t('lecture.over_waits') : t('lecture.no_recording') }}
        </p>
        <FaultNote v-if="problem" :error="problem" />
      </div>

      <LiveQuestion v-if="!it.staff && isToday && it.standing.enter" class="talk put" :lecture="lecture" />
      <ChatPane v-if="!it.staff && isToday && it.standing.enter" class="talk" :lecture="lecture" :zone="zone" />

      <template v-if="it.staff">
        <el-button v-if="!editing" @click="editing = true">
          {{ t('lecture.change') }}
        </el-button>
        <EditLecture v-else :page="it" @close="editing = false" />
      </template>
      <p v-if="!me.data.value?.guest_of" class="soft small address">{{ t('lecture.address') }}</p>
      <CopyLine v-if="!me.data.value?.guest_of" :label="t('lecture.address_name')" :text="address" />
      <RegisterList
        v-if="it.staff && l.state !== 'planned' && l.state !== 'off' && !l.ahead"
        class="who"
        :lecture="lecture"
        :zone="zone"
        :on="l.state === 'on'"
      />
    </section>
    <aside v-if="!l.ahead">
      <section>
        <h2>{{ t('doorway.name') }}</h2>
        <p>
          <b>{{ t(`doorway.${l.doorway}`) }}</b>
          {{ t(`doorway.${l.doorway}_help`) }}
        </p>
        <p v-if="l.doorway !== 'closed'" class="soft">
          {{ t('doorway.opens_at', { at: isToday ? clockText(l.opens_at, zone) : dayAndClock(l.opens_at, zone) }) }}
        </p>
      </section>
      <HallSign v-if="!it.staff && isToday && it.standing.enter && l.hall" :lecture="lecture" />
      <DoorwaySide v-if="it.staff" :lecture="lecture" :zone="zone" :ends="l.ends_at" />
    </aside>
  </div>
</template>

<style scoped>
.lecture {
  --side: 340px;
}

.when {
  font: 20px/1.5 var(--serif);
}

.when b {
  margin-inline-end: 6px;
  padding: 2px 10px;
  border-inline-start: 5px solid var(--kelp);
  background: var(--kelp-soft);
}

.state {
  font-size: 16px;
}

.now,
.other {
  margin-bottom: 16px;
}

.word {
  margin: 0 0 12px;
  padding-inline-start: 12px;
  border-inline-start: 3px solid var(--edge);
}

.now > p:last-child {
  margin-bottom: 0;
}

.who {
  margin-top: 26px;
}

.put {
  margin-bottom: 18px;
}

.talk {
  max-width: 640px;
}

.address {
  margin: 18px 0 4px;
}

aside section {
  padding: 12px 0;
  border-bottom: 1px solid var(--rule);
}
</style>
