<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import Sortable from 'sortablejs'
import { computed, nextTick, ref, shallowRef, watch, watchEffect } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'
import { changeLighting, undoLighting } from '../../api/lighting'
import { keys, usePlaylist, usePlaylistChange, type PlaylistChange } from '../../api/queries'
import FaultNote from '../../parts/FaultNote.vue'
import CourseHead from '../common/CourseHead.vue'
import UndoLine from '../../parts/UndoLine.vue'
import LightSheet from '../common/LightSheet.vue'
import WhoSheet from '../common/WhoSheet.vue'
import { nameTab } from '../../router'
import { locale } from '../../parts/reader'
import EntryLine from './EntryLine.vue'
import GapLine from './GapLine.vue'

type Entry = Schemas['PlaylistLine']
type Gap = Schemas['GapLine']
const props = defineProps<{ course: string }>()
const { t } = useI18n()
const client = useQueryClient()
const page = usePlaylist(() => props.course)
const change = usePlaylistChange(() => props.course)
const entries = computed(() => page.data.value?.entries ?? [])
const list = ref<HTMLElement>()
const heading = ref('')
const fault = ref<unknown>()
const who = ref('')
const removed = shallowRef<{ entry: Entry; before: string | undefined }>()
const said = ref('')
/** What was lit or darkened last, and can be taken back. */
const lit = shallowRef<{ step: string; text: string }>()
const many = ref(false)
/** What can be lit for other courses from here: what is of this course. */
const own = computed(() =>
  entries.value.flatMap((e) => (e.recording_id && !e.from ? [{ id: e.recording_id, title: e.title }] : [])),
)

/** The lines of the page: entries, and lectures that are missing where they would stand. */
const lines = computed(() => {
  const out: ({ entry: Entry } | { gap: Gap })[] = []
  const gaps = [...(page.data.value?.gaps ?? [])]
  for (const entry of entries.value) {
    const week = entry.recording_id && !entry.from ? entry.week : 0
    while (week > 0 && gaps[0] && gaps[0].week < week) out.push({ gap: gaps.shift()! })
    out.push({ entry })
  }
  return [...out, ...gaps.map((gap) => ({ gap }))]
})
/** How much of what took place is here, and of which weeks something is missing. */
const held = computed(() => {
  const p = page.data.value
  if (!p || p.took === 0) return ''
  const weeks = [...new Set(p.gaps.map((g) => g.week).filter((n) => n > 0))]
  const all = t('playlist.held', { here: p.here, of: p.took }, p.took)
  if (weeks.length === 0) return all
  const list = new Intl.ListFormat(locale).format(weeks.map(String))
  return `${all} ${t('playlist.missing', { weeks: list }, weeks.length)}`
})

async function make(c: PlaylistChange) {
  fault.value = undefined
  try {
    return await change.mutateAsync(c)
  } catch (e) {
    fault.value = e
    return undefined
  }
}

async function light(entry: Entry, on: boolean) {
  fault.value = undefined
  try {
    const { step } = await changeLighting({ recordings: [entry.recording_id!], courses: [props.course], lit: on })
    lit.value = { step, text: t(on ? 'playlist.is_lit' : 'playlist.is_dark', { title: entry.title }) }
    await client.invalidateQueries({ queryKey: keys.playlist(props.course) })
    void client.invalidateQueries({ queryKey: keys.board })
  } catch (e) {
    fault.value = e
  }
}

const after = (entry: Entry) => entries.value[entries.value.findIndex((e) => e.id === entry.id) + 1]?.id

async function remove(entry: Entry) {
  const before = after(entry)
  if (await make({ do: 'remove', entry: entry.id })) removed.value = { entry, before }
}

async function putBack() {
  const r = removed.value
  if (!r) return
  removed.value = undefined
  const known = new Set(entries.value.map((e) => e.id))
  const now = await make(
    r.entry.recording_id
      ? { do: 'add', recording: r.entry.recording_id }
      : { do: 'heading', heading: r.entry.heading ?? '' },
  )
  const back = now?.entries.find((e) => !known.has(e.id))
  if (back && r.before !== after(back)) await make({ do: 'move', entry: back.id, before: r.before })
}

/** step moves an entry by one place with the keyboard, and keeps the focus on it. */
async function step(entry: Entry, by: -1 | 1) {
  const at = entries.value.findIndex((e) => e.id === entry.id)
  const to = at + by
  if (to < 0 || to >= entries.value.length) return
  const before = by < 0 ? entries.value[to]?.id : entries.value[to + 1]?.id
  if (!(await make({ do: 'move', entry: entry.id, before }))) return
  said.value = t('playlist.moved', { n: to + 1, of: entries.value.length })
  await nextTick()
  list.value?.querySelector<HTMLElement>(`[data-entry="${entry.id}"] .grip`)?.focus()
}

async function addHeading() {
  if (heading.value.trim() === '') return
  if (await make({ do: 'heading', heading: heading.value })) heading.value = ''
}

watch(list, (element, _, done) => {
  if (!element) return
  const sortable = Sortable.create(element, {
    handle: '.grip',
    draggable: '[data-entry]',
    animation: window.matchMedia('(prefers-reduced-motion: reduce)').matches ? 0 : 120,
    onEnd: ({ item, oldIndex }) => {
      const entry = item.dataset.entry!
      let next = item.nextElementSibling as HTMLElement | null
      while (next && !next.dataset.entry) next = next.nextElementSibling as HTMLElement | null
      const before = next?.dataset.entry
      // The page is drawn from what the server says, so the node goes back to where it was drawn.
      item.remove()
      element.insertBefore(item, element.children[oldIndex ?? 0] ?? null)
      void make({ do: 'move', entry, before })
    },
  })
  done(() => sortable.destroy())
})

watchEffect(() => nameTab(page.data.value ? t('playlist.of', { course: page.data.value.course.code }) : ''))
</script>

<template>
  <FaultNote v-if="page.error.value && !page.data.value" :error="page.error.value" again @again="page.refetch()" />
  <CourseHead v-if="page.data.value" :course="page.data.value.course" staff />
  <section v-if="page.data.value">
    <FaultNote v-if="fault" :error="fault" />
    <p v-if="removed" class="undo" role="status">
      {{ t('playlist.removed', { title: removed.entry.heading ?? removed.entry.title }) }}
      <el-button link @click="putBack">{{ t('playlist.put_back') }}</el-button>
    </p>
    <UndoLine
      v-if="lit"
      :key="lit.step"
      :text="lit.text"
      :undo="() => undoLighting(lit!.step)"
      @undone="client.invalidateQueries()"
    />
    <span class="away" role="status">{{ said }}</span>
    <div class="page">
      <p v-if="held" class="held">{{ held }}</p>
      <p v-if="lines.length === 0" class="soft">{{ t('playlist.empty') }}</p>
      <ol ref="list" class="plain">
        <template v-for="l in lines" :key="'gap' in l ? l.gap.lecture_id : l.entry.id">
          <GapLine v-if="'gap' in l" :gap="l.gap" :zone="page.data.value.zone" :course="page.data.value.course" />
          <EntryLine
            v-else
            :data-entry="l.entry.id"
            :entry="l.entry"
            :zone="page.data.value.zone"
            @step="(by) => step(l.entry, by)"
            @remove="remove(l.entry)"
            @rename="(text) => make({ do: 'rename', entry: l.entry.id, heading: text })"
            @light="(on) => light(l.entry, on)"
            @who="who = l.entry.recording_id ?? ''"
          />
        </template>
      </ol>
      <form class="add" @submit.prevent="addHeading">
        <label class="away" for="heading">{{ t('playlist.heading') }}</label>
        <el-input id="heading" v-model="heading" maxlength="120" :placeholder="t('playlist.heading')" />
        <el-button native-type="submit">{{ t('playlist.add_heading') }}</el-button>
      </form>
      <p v-if="own.length > 0" class="many">
        <el-button link @click="many = true">{{ t('lighting.many') }}</el-button>
      </p>
    </div>
    <div v-if="page.data.value.waiting.length > 0" class="page waiting">
      <h2>{{ t('playlist.waiting') }}</h2>
      <ul class="plain">
        <li v-for="w in page.data.value.waiting" :key="w.recording_id">
          <span class="week soft">{{ t('sheet.week', { n: w.week }) }}</span>
          <router-link :to="{ name: 'trim-bench', params: { recording: w.recording_id } }">{{ w.title }}</router-link>
          <span v-if="w.next !== 'playlist'" class="soft">{{
            t('board.next', { step: t(`step.${w.next || 'wait'}`) })
          }}</span>
          <el-button
            :aria-label="t('playlist.add_it', { title: w.title })"
            @click="make({ do: 'add', recording: w.recording_id })"
          >
            {{ t('playlist.add') }}
          </el-button>
        </li>
      </ul>
    </div>
    <LightSheet v-if="many" :recordings="own" :course="course" :zone="page.data.value.zone" @close="many = false" />
    <WhoSheet v-if="who" :recording="who" :course="course" @close="who = ''" />
  </section>
</template>

<style scoped>
section {
  max-width: 980px;
}

.many {
  margin-top: 12px;
}

.held {
  font-weight: 600;
}

.add {
  display: flex;
  gap: 10px;
  max-width: 520px;
  margin-top: 16px;
}

.waiting {
  margin-top: 18px;
}

.waiting li {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
  align-items: center;
  padding: 8px 0;
}

.waiting .el-button {
  margin-inline-start: auto;
}

.undo {
  padding: 8px 14px;
  background: var(--struck);
}
</style>
