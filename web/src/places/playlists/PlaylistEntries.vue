<script setup lang="ts">
/** The entries of a playlist in their order, and what is done to them. */
import { useQueryClient } from '@tanstack/vue-query'
import { computed, nextTick, onBeforeUpdate, onUpdated, ref, shallowRef } from 'vue'
import { useI18n } from 'vue-i18n'
import { Problem } from '../../api/client'
import { changeLighting, undoLighting } from '../../api/lighting'
import { usePlaylistChange, type Entry, type ListOf, type PlaylistChange, type PlaylistPage } from '../../api/playlists'
import { keys } from '../../api/queries'
import FaultNote from '../../parts/FaultNote.vue'
import { useForm } from '../../parts/form'
import UndoLine from '../../parts/UndoLine.vue'
import { locale } from '../../parts/reader'
import LightSheet from '../common/LightSheet.vue'
import WhoSheet from '../common/WhoSheet.vue'
import AddEntry from './AddEntry.vue'
import ChosenEntries from './ChosenEntries.vue'
import EntryLine from './EntryLine.vue'
import GapLine from './GapLine.vue'
import NotHere from './NotHere.vue'
import { useDragging } from './dragging'
import { linesOf } from './lines'
import { backAt, beforeBelow, stepBefore } from './moving'

const props = defineProps<{ page: PlaylistPage; list: ListOf }>()
const { t } = useI18n()
const client = useQueryClient()
const change = usePlaylistChange(() => props.list)
const entries = computed(() => props.page.entries)
const mine = computed(() => props.page.list.mine)
const movable = computed(() => mine.value && props.page.list.arranged !== 'week')
const lines = computed(() => linesOf(props.page))
const root = ref<HTMLElement>()
/** What was taken out last, or lit or darkened, can be taken back. */
const { problem: fault, done, send, said: tell } = useForm()
const who = shallowRef<{ recording: string; course: string }>()
const said = ref('')
/** What is lit for other courses from here: what is of this course. */
const lighting = ref<{ id: string; title: string }[]>([])
/** Courses in which something of it is dark though one could light it there. */
const darkIn = computed(() => {
  const can = own.value.map((r) => r.id)
  const ready = entries.value.filter((e) => e.recording_id && e.length_ms > 0 && can.includes(e.recording_id))
  const there = ready.flatMap((e) => (e.elsewhere ?? []).filter((c) => c.light === 'dark').map((c) => c.code))
  return new Intl.ListFormat(locale).format(new Set(there))
})
const own = computed(() => lightable(entries.value))
const chosen = ref<string[]>([])
const picked = computed(() => entries.value.filter((e) => chosen.value.includes(e.id)))
const headings = computed(() => [
  { value: '', text: t('playlist.top') },
  ...entries.value.filter((e) => e.heading !== undefined).map((e) => ({ value: e.id, text: e.heading! })),
])
const lightable = (of: Entry[]) =>
  of.flatMap((e) => (e.recording_id && !e.from ? [{ id: e.recording_id, title: e.title }] : []))

/** How much of what took place is here, and of which weeks something is missing. */
const held = computed(() => {
  const p = props.page
  if (p.took === 0) return ''
  const weeks = [...new Set(p.gaps.map((g) => g.week).filter((n) => n > 0))]
  const all = t('playlist.held', { here: p.here, of: p.took }, p.took)
  if (weeks.length === 0) return all
  const list = new Intl.ListFormat(locale).format(weeks.map(String))
  return `${all} ${t('playlist.missing', { weeks: list }, weeks.length)}`
})

async function make(c: PlaylistChange) {
  const page = await send(() => change.mutateAsync(c))
  if (fault.value instanceof Problem && fault.value.kind === 'stopped') fault.value = undefined
  return page
}

async function light(entry: Entry, on: boolean) {
  const course = props.list.course
  const made = await send(() => changeLighting({ recordings: [entry.recording_id!], courses: [course], lit: on }))
  if (!made) return
  tell(t(on ? 'playlist.is_lit' : 'playlist.is_dark', { title: entry.title }), async () => {
    await undoLighting(made.step)
    await client.invalidateQueries()
  })
  await client.invalidateQueries({ queryKey: keys.playlists(course) })
  void client.invalidateQueries({ queryKey: keys.board })
}

/** remove takes entries out; back they come one after the other, each before what it stood before. */
async function remove(gone: Entry[]) {
  const was = entries.value
  if (!(await make({ do: 'remove', entries: gone.map((e) => e.id) }))) return
  chosen.value = []
  const only = gone.length === 1 ? gone[0] : undefined
  const text = only
    ? t('playlist.removed', { title: only.heading ?? only.title })
    : t('playlist.removed_n', { n: gone.length }, gone.length)
  tell(text, () => backAt(was, gone, movable.value, change.mutateAsync))
}

function choose(entry: Entry) {
  const rest = chosen.value.filter((id) => id !== entry.id)
  chosen.value = rest.length === chosen.value.length ? [...rest, entry.id] : rest
}

/** together are the entries that move with one: those that are chosen, if it is among them. */
const together = (id: string) =>
  chosen.value.includes(id) ? entries.value.filter((e) => chosen.value.includes(e.id)).map((e) => e.id) : [id]

/** What the next step waits for: it begins where the one before it ended, however fast keys are pressed. */
let steps = Promise.resolve()
const step = (entry: Entry, by: -1 | 1) => void (steps = steps.then(() => stepped(entry, by)))

/** stepped moves an entry, and what is chosen with it, by one place with the keyboard. */
async function stepped(entry: Entry, by: -1 | 1) {
  if (!movable.value) return
  const moved = together(entry.id)
  const before = stepBefore(entries.value, moved, by)
  if (before === undefined || !(await make({ do: 'move', entries: moved, before: before || undefined }))) return
  // Queries tell of what is new in a task of its own.
  await new Promise((done) => setTimeout(done))
  await nextTick()
  const at = entries.value.findIndex((e) => e.id === entry.id)
  said.value = t('playlist.moved', { n: at + 1, of: entries.value.length })
}

/** A browser takes the focus from a line that is moved, whoever moved it: it gets it back. */
let focused: HTMLElement | undefined
onBeforeUpdate(() => {
  const at = document.activeElement
  focused = at instanceof HTMLElement && root.value?.contains(at) ? at : undefined
})
onUpdated(() => {
  if (focused?.isConnected && document.activeElement === document.body) focused.focus()
})

const putBelow = (heading: string) =>
  make({ do: 'move', entries: chosen.value, before: beforeBelow(entries.value, chosen.value, heading) })

useDragging(root, movable, (id, before) => make({ do: 'move', entries: together(id), before }))
</script>

<template>
  <FaultNote v-if="fault" :error="fault" />
  <UndoLine v-if="done" v-bind="done" :key="done.key" />
  <span class="away" role="status">{{ said }}</span>
  <div class="page">
    <p v-if="held" class="held">{{ held }}</p>
    <p v-if="lines.length === 0" class="soft">{{ t(page.list.main ? 'playlist.empty' : 'playlist.empty_one') }}</p>
    <p v-if="darkIn" class="dark-in">
      {{ t('playlist.dark_in', { courses: darkIn }) }}
      <el-button type="primary" @click="lighting = own">{{ t('playlist.light_there') }}</el-button>
    </p>
    <ol ref="root" class="plain">
      <template v-for="l in lines" :key="l.key">
        <GapLine v-if="'gap' in l" :gap="l.gap" :zone="page.zone" :course="page.course" />
        <li v-else-if="'week' in l" class="week-head">{{ l.week ? t('sheet.week', { n: l.week }) : '' }}</li>
        <EntryLine
          v-else
          :data-entry="l.entry.id"
          :entry="l.entry"
          :course="list.course"
          :zone="page.zone"
          :mine="mine"
          :movable="movable"
          :filling="page.list.filling !== undefined"
          :chosen="chosen.includes(l.entry.id)"
          @step="(by) => step(l.entry, by)"
          @choose="choose(l.entry)"
          @remove="remove([l.entry])"
          @word="(text) => make({ do: 'word', entry: l.entry.id, text })"
          @light="(on) => light(l.entry, on)"
          @who="(course) => (who = { recording: l.entry.recording_id!, course: course ?? list.course })"
        />
      </template>
    </ol>
    <ChosenEntries
      v-if="picked.length > 0"
      :count="picked.length"
      :places="movable ? headings : []"
      :lightable="lightable(picked).length > 0"
      @put="putBelow"
      @remove="remove(picked)"
      @light="lighting = lightable(picked)"
      @none="chosen = []"
    />
    <AddEntry v-if="mine" :make="make" />
    <p v-if="own.length > 0" class="many">
      <el-button link @click="lighting = own">{{ t('lighting.many') }}</el-button>
    </p>
  </div>
  <NotHere v-if="mine" :page="page" :list="list" @add="(recordings) => make({ do: 'add', recordings })" />
  <LightSheet
    v-if="lighting.length > 0"
    :recordings="lighting"
    :course="list.course"
    :also="page.shown_in.filter((c) => c.mine).map((c) => c.id)"
    :zone="page.zone"
    @close="lighting = []"
  />
  <WhoSheet v-if="who" :recording="who.recording" :course="who.course" @close="who = undefined" />
</template>

<style scoped>
.many {
  margin-top: 12px;
}

.held {
  font-weight: 600;
}

.dark-in {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 18px;
  align-items: center;
}

.week-head {
  padding: 16px 0 4px 42px;
  font: 600 16px var(--serif);
}
</style>
