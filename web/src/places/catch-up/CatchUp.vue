<script setup lang="ts">
import { keepPreviousData, useQueryClient } from '@tanstack/vue-query'
import { useStorage } from '@vueuse/core'
import { computed, defineAsyncComponent, nextTick, onMounted, shallowRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute } from 'vue-router'
import { useCatchUp, type Order } from '../../api/catchup'
import { useMe } from '../../api/me'
import { keys } from '../../api/queries'
import FaultNote from '../../parts/FaultNote.vue'
import LanternSign from '../../parts/LanternSign.vue'
import RunningTime from '../../parts/RunningTime.vue'
import { durationText } from '../../parts/time'
import { nameTab } from '../../router'
import CatchUpEntries from './CatchUpEntries.vue'
import LeftPart from './LeftPart.vue'
import NewsPart from './NewsPart.vue'

const OwnFeed = defineAsyncComponent(() => import('../common/OwnFeed.vue'))

const { t } = useI18n()
/** The course whose feed is looked at. */
const fed = shallowRef<{ id: string; code: string }>()
/** In which order one catches up is remembered in this browser. */
const order = useStorage<Order>('late-lantern-order', 'date')
const list = useCatchUp(order, { placeholderData: keepPreviousData })
nameTab(t('place.catch_up'))

// What was watched without a line is told first.
const me = useMe()
const client = useQueryClient()
onMounted(async () => {
  const { sendPlayed } = await import('../common/played')
  if (me.data.value && (await sendPlayed(me.data.value.id))) void client.invalidateQueries({ queryKey: keys.catchUp })
})

/** The playlist whose link one came by, as it is named on this page. */
const route = useRoute()
const asked = computed(() => `${route.query.course}/${route.query.list}`)
watch(
  () => list.data.value !== undefined,
  async (there) => {
    await nextTick()
    if (there) document.getElementById(asked.value)?.scrollIntoView()
  },
  { immediate: true },
)
const placeOf = (course: string, l: { id: string; title: string }) => `${course}/${l.title ? l.id : 'main'}`

/** The courses, and what is open beside them. */
const sections = computed(() => {
  const { courses = [], opened = [] } = list.data.value ?? {}
  const own = courses.map((c) => ({
    id: c.course.id,
    name: `${c.course.code} ${c.course.title}`,
    of: c.course,
    lists: c.lists,
  }))
  const beside = { id: 'opened', title: '', about: '', weekly: false, entries: opened }
  return opened.length > 0 ? [...own, { id: 'opened', name: t('opened.title'), of: undefined, lists: [beside] }] : own
})
/** What is open, once, in however many playlists it stands. */
const open = computed(() => {
  const all = sections.value.flatMap((c) => c.lists.flatMap((l) => l.entries))
  return [...new Map(all.filter((e) => e.recording_id && e.open).map((e) => [e.recording_id, e])).values()]
})
type Lists = (typeof sections.value)[number]['lists']

/** How much of a course is left, of each recording once. */
function leftOf(lists: Lists): number {
  const all = new Map(lists.flatMap((l) => l.entries).map((e) => [e.recording_id, e.account?.missed_ms ?? 0]))
  return [...all.values()].reduce((a, b) => a + b, 0)
}
</script>

<template>
  <FaultNote
    v-if="list.error.value && !list.data.value"
    :error="list.error.value"
    :missing="t('board.no_term')"
    again
    @again="list.refetch()"
  />
  <section v-if="list.data.value">
    <h1>{{ t('place.catch_up') }}</h1>
    <div v-for="l in list.data.value.live" :key="l.recording_id" class="page live">
      <LanternSign state="capturing" />
      <div>
        <b>{{ t('catch_up.live', { course: l.course }) }}</b> {{ l.title }} ·
        <RunningTime class="mono tally" :held="l.held_ms" :phase="l.phase" />
      </div>
      <el-button
        v-if="l.enter"
        tag="router-link"
        type="primary"
        :to="{ name: 'watch', params: { recording: l.recording_id } }"
        >{{ t('catch_up.follow') }}</el-button
      >
      <el-button v-else tag="router-link" type="primary" :to="{ name: 'lecture', params: { lecture: l.lecture_id } }">{{
        t('catch_up.to_door')
      }}</el-button>
    </div>
    <LeftPart v-model:order="order" :left="list.data.value.left" :open="open.length" />
    <NewsPart :zone="list.data.value.zone" />
    <section v-for="c in sections" :key="c.id" class="page course">
      <div class="head">
        <h2>{{ c.name }}</h2>
        <span v-if="leftOf(c.lists) > 0" class="soft left">{{
          t('catch_up.course_left', { left: durationText(leftOf(c.lists)) })
        }}</span>
        <el-button v-if="c.of" link :aria-label="t('own_feed.title', { course: c.of.code })" @click="fed = c.of">{{
          t('own_feed.link')
        }}</el-button>
      </div>
      <p v-if="!c.lists.some((l) => l.entries.some((e) => e.recording_id || e.file))" class="soft">
        {{ t('catch_up.empty') }}
      </p>
      <template v-else>
        <section v-for="l in c.lists" :id="placeOf(c.id, l)" :key="l.id" :class="{ asked: placeOf(c.id, l) === asked }">
          <h3 v-if="l.title">{{ l.title }}</h3>
          <p v-if="l.about" class="about">{{ l.about }}</p>
          <CatchUpEntries :list="l" :course="c.of?.id ?? ''" :zone="list.data.value.zone" />
        </section>
      </template>
    </section>
    <OwnFeed v-if="fed" :course="fed" @close="fed = undefined" />
  </section>
</template>

<style scoped>
.asked {
  padding-inline-start: 12px;
  border-inline-start: 3px solid var(--kelp);
}

section {
  max-width: 900px;
}

.live {
  display: flex;
  flex-wrap: wrap;
  gap: 14px;
  align-items: center;
  margin-bottom: 16px;
}

.live .el-button {
  margin-inline-start: auto;
}

.course {
  margin-bottom: 16px;
}

.head {
  display: flex;
  flex-wrap: wrap;
  gap: 0 18px;
  align-items: baseline;
  justify-content: space-between;
}

.left {
  margin-inline-end: auto;
}

.about {
  max-width: 640px;
  margin: 2px 0 6px;
}

h3 {
  margin: 22px 0 4px;
  padding-top: 16px;
  border-top: 1px solid var(--rule-strong);
  font: 600 18px/1.3 var(--serif);
}
</style>
