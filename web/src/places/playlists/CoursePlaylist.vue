<script setup lang="ts">
/** What a course shows: its playlists, of which one is here. */
import { useQueryClient } from '@tanstack/vue-query'
import { computed, watchEffect } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute, useRouter } from 'vue-router'
import {
  changePlaylist,
  setFilling,
  usePlaylist,
  usePlaylistChange,
  type FillText,
  type ListText,
  type PlaylistChange,
} from '../../api/playlists'
import { Problem } from '../../api/client'
import { keys } from '../../api/queries'
import FaultNote from '../../parts/FaultNote.vue'
import { useForm } from '../../parts/form'
import UndoLine from '../../parts/UndoLine.vue'
import { nameTab } from '../../router'
import CourseHead from '../common/CourseHead.vue'
import ListAbout from './ListAbout.vue'
import ListFilling from './ListFilling.vue'
import ListTabs from './ListTabs.vue'
import PlaylistEntries from './PlaylistEntries.vue'
import TellLine from './TellLine.vue'

const props = defineProps<{ course: string }>()
const { t } = useI18n()
const client = useQueryClient()
const route = useRoute()
const router = useRouter()
const list = computed(() => ({
  course: props.course,
  list: typeof route.query.list === 'string' ? route.query.list : undefined,
}))
const page = usePlaylist(list)
const change = usePlaylistChange(list)
const { problem, done, send, said } = useForm()
/** The playlist that was looked at is shown here no more. */
const lost = computed(
  () => list.value.list !== undefined && page.error.value instanceof Problem && page.error.value.status === 404,
)
const main = computed(() => ({ name: 'playlist', params: { course: props.course } }))

const make = (c: PlaylistChange) => send(() => change.mutateAsync(c))

/** leave has the playlist that is here go, and says how it comes back. */
async function leave(go: PlaylistChange, come: PlaylistChange, text: string) {
  const was = list.value
  const title = page.data.value!.list.title
  if (!(await make(go))) return
  said(t(text, { title }), async () => {
    await changePlaylist(was, come)
    await client.invalidateQueries({ queryKey: keys.playlists(props.course) })
    await router.push({ ...main.value, query: { list: was.list } })
  })
  await router.push(main.value)
}
const takeAway = () => leave({ do: 'take away' }, { do: 'bring back' }, 'playlist.taken_away')
const hide = () => leave({ do: 'show', shown: false }, { do: 'show', shown: true }, 'playlist.hidden')
/** filled asks for the playlist as its new sentence filled it, and says how the earlier one comes back. */
async function filled(was: FillText) {
  const of = list.value
  const again = () => client.invalidateQueries({ queryKey: keys.playlists(of.course) })
  const back = async () => (await setFilling(of, was.course || was.words ? was : { leave: true }), again())
  said(t('filling.kept'), back)
  await again()
}
const keep = (text: ListText) => make({ do: 'list', text })

watchEffect(() => {
  const p = page.data.value
  if (p) nameTab(p.list.main ? t('playlist.of', { course: p.course.code }) : `${p.list.title}, ${p.course.code}`)
})
</script>

<template>
  <FaultNote
    v-if="page.error.value && (lost || !page.data.value)"
    :error="page.error.value"
    :missing="list.list ? t('playlist.not_shown') : undefined"
    again
    @again="page.refetch()"
  />
  <p v-if="lost">
    <router-link :to="main">{{ t('playlist.to_main') }}</router-link>
  </p>
  <template v-if="page.data.value && !lost">
    <CourseHead :course="page.data.value.course" staff />
    <section>
      <ListTabs :course="page.data.value.course" :lists="page.data.value.lists" :here="page.data.value.list" />
      <TellLine :course="course" :code="page.data.value.course.code" :zone="page.data.value.zone" />
      <UndoLine v-if="done" v-bind="done" :key="done.key" />
      <FaultNote v-if="problem" :error="problem" />
      <ListAbout :key="page.data.value.list.id" :page="page.data.value" @change="keep" @away="takeAway" @hide="hide" />
      <ListFilling
        v-if="page.data.value.list.mine && !page.data.value.list.main"
        :key="`filling ${list.list}`"
        :page="page.data.value"
        :list="list"
        @kept="filled"
      />
      <PlaylistEntries :key="list.list ?? ''" :page="page.data.value" :list="list" />
    </section>
  </template>
</template>

<style scoped>
section {
  max-width: 1060px;
}
</style>
