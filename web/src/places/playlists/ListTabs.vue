<script setup lang="ts">
/** The playlists that a course shows, of which one is here, and the ways to have another. */
import { ref, shallowRef } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRouter } from 'vue-router'
import type { Schemas } from '../../api/client'
import { addPlaylist, bringPlaylist, changePlaylist, useOffered, type ListLine } from '../../api/playlists'
import ChoiceList from '../../parts/ChoiceList.vue'
import FilePick from '../../parts/FilePick.vue'
import FaultNote from '../../parts/FaultNote.vue'
import FormText from '../../parts/FormText.vue'
import PageSheet from '../../parts/PageSheet.vue'
import { useForm } from '../../parts/form'

const props = defineProps<{ course: { id: string; code: string }; lists: ListLine[]; here: ListLine }>()
const { t } = useI18n()
const router = useRouter()
const form = useForm()
const open = ref(false)
const title = ref('')
const offered = useOffered(() => props.course.id, open)
const taken = ref('')

/** Lines of a file that were left out of the playlist made from it, which is there already. */
const left = shallowRef<Schemas['Brought']>()

async function bring([file]: File[]) {
  if (!file) return
  const done = await form.send(async () => bringPlaylist(props.course.id, await file.text(), title.value || undefined))
  if (!done) return
  if (done.unknown.length === 0) await go(done.list_id)
  else left.value = done
}

const name = (l: ListLine) => (l.main ? t('playlist.main') : l.title)
const place = (list?: string) => ({
  name: 'playlist',
  params: { course: props.course.id },
  query: list ? { list } : {},
})

async function go(list: string | undefined) {
  open.value = false
  title.value = taken.value = ''
  left.value = undefined
  await router.push(place(list))
}

async function make() {
  const text = { title: title.value, about: '', arranged: 'date' as const }
  const page = await form.send(() => addPlaylist(props.course.id, text))
  if (page) await go(page.list.id)
}

async function show() {
  const list = taken.value
  const done = await form.send(() => changePlaylist({ course: props.course.id, list }, { do: 'show', shown: true }))
  if (done) await go(list)
}
</script>

<template>
  <nav class="lists" :aria-label="t('playlist.lists')">
    <router-link
      v-for="l in lists"
      :key="l.id ?? 'main'"
      :to="place(l.main ? undefined : l.id)"
      :class="{ here: l.main ? here.main : l.id === here.id }"
      :aria-current="(l.main ? here.main : l.id === here.id) ? 'page' : undefined"
      >{{ name(l) }}<span v-if="!l.mine" class="small soft from">{{ t('lighting.from', { course: l.code }) }}</span>
    </router-link>
    <el-button link @click="open = true">{{ t('playlist.another') }}</el-button>
  </nav>
  <PageSheet :open="open" :title="t('playlist.another')" @close="open = false">
    <form @submit.prevent="make">
      <FormText v-model="title" size="wide" :label="t('playlist.title')" maxlength="120" />
      <el-button type="primary" native-type="submit" :disabled="form.busy.value || title.trim() === ''">{{
        t('playlist.make')
      }}</el-button>
    </form>
    <template v-if="offered.data.value">
      <h3>{{ t('playlist.of_others') }}</h3>
      <p v-if="offered.data.value.lists.length === 0" class="soft">{{ t('playlist.none_offered') }}</p>
      <form v-else @submit.prevent="show">
        <ChoiceList
          v-model="taken"
          :label="t('playlist.one_of_others')"
          :options="offered.data.value.lists.map((l) => ({ value: l.id ?? '', text: `${l.code}: ${l.title}` }))"
        />
        <el-button native-type="submit" :disabled="form.busy.value || taken === ''">{{ t('playlist.show') }}</el-button>
      </form>
    </template>
    <h3>{{ t('playlist.of_file') }}</h3>
    <p class="soft">{{ t('playlist.file_help') }}</p>
    <FilePick :text="t('playlist.choose_file')" accept=".xspf,.csv" @files="bring" />
    <div v-if="left" role="status">
      <p>
        {{ t('playlist.left_out', { here: left.here, n: left.unknown.length }, left.unknown.length) }}
        <el-button link @click="go(left.list_id)">{{ t('playlist.to_it') }}</el-button>
      </p>
      <ul class="plain">
        <li v-for="u in left.unknown" :key="u.line">
          {{ t('playlist.line', { line: u.line }) }} {{ u.title || u.address || '–' }}
        </li>
      </ul>
    </div>
    <FaultNote v-if="form.problem.value" :error="form.problem.value" />
    <FaultNote v-if="offered.error.value" :error="offered.error.value" again @again="offered.refetch()" />
  </PageSheet>
</template>

<style scoped>
.lists {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 20px;
  align-items: baseline;
  margin-bottom: 12px;
}

.lists a {
  padding: 4px 0;
  color: var(--ink-2);
}

.lists a.here {
  color: var(--ink);
  font-weight: 600;
  text-decoration: none;
}

.from {
  margin-inline-start: 8px;
  font-weight: 400;
}

form > :first-child {
  width: 100%;
}

form {
  display: flex;
  flex-direction: column;
  gap: 10px;
  align-items: flex-start;
  margin-bottom: 22px;
}
</style>
