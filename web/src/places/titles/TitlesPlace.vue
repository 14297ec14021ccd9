<script setup lang="ts">
/** Titles of many recordings: read as they are and as they would become, and given at once. */
import { useQueryClient } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, reactive, ref, watch, watchEffect } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute, useRouter } from 'vue-router'
import type { Schemas } from '../../api/client'
import { keys } from '../../api/queries'
import { giveTitles, useTitles } from '../../api/titles'
import ChoiceList from '../../parts/ChoiceList.vue'
import FaultNote from '../../parts/FaultNote.vue'
import { useForm } from '../../parts/form'
import { dateText } from '../../parts/time'
import { courseChoices } from '../common/choices'
import UndoLine from '../../parts/UndoLine.vue'
import { nameTab } from '../../router'
import TitlePattern from './TitlePattern.vue'

type Line = Schemas['TitleLine']
const { t } = useI18n()
const route = useRoute()
const router = useRouter()
const client = useQueryClient()
const course = computed(() => String(route.query.course ?? ''))
const tried = ref('')
const pattern = refDebounced(tried, 250)
const page = useTitles(course, pattern)
/** All of them, to choose from. */
const all = useTitles('', '')
const bare = ref(true)
const { busy, problem, done, act, said } = useForm()

/** What someone wrote in place of what the pattern proposes, and whom it is for. */
const written = reactive(new Map<string, string>())
const left = reactive(new Set<string>())
const taken = reactive(new Set<string>())

const lines = computed(() => (page.data.value?.lines ?? []).filter((l) => !bare.value || l.title === ''))
const then = (l: Line) => written.get(l.recording_id) ?? l.proposed
/**
 * Those without a title of their own are meant, unless someone says otherwise; of others only those that are chosen.
 */
const meant = (l: Line) =>
  then(l).trim() !== '' &&
  then(l) !== l.title &&
  (l.title === '' ? !left.has(l.recording_id) : taken.has(l.recording_id))
const chosen = computed(() => lines.value.filter(meant))
const choices = computed(() => [{ value: '', text: t('titles.all') }, ...courseChoices(all.data.value?.courses ?? [])])
const codes = computed(() => new Map((all.data.value?.courses ?? []).map((c) => [c.id, c])))

/** Those that can be chosen: what they would be called is not what they are. */
const open = computed(() => lines.value.filter((l) => then(l).trim() !== '' && then(l) !== l.title))
const chooseAll = (on: boolean) => open.value.forEach((l) => choose(l, on))

function choose(l: Line, on: boolean) {
  if (l.title === '') left[on ? 'delete' : 'add'](l.recording_id)
  else taken[on ? 'add' : 'delete'](l.recording_id)
}

function write(l: Line, text: string) {
  written.set(l.recording_id, text)
  if (l.title !== '') taken.add(l.recording_id)
}

async function give() {
  const list = chosen.value.map((l) => ({
    recording_id: l.recording_id,
    seen: l.title,
    title: then(l).trim().replace(/\s+/g, ' '),
  }))
  if (!(await act(() => giveTitles(list)))) return void page.refetch()
  said(t('titles.given', { n: list.length }, list.length), async () => {
    await giveTitles(list.map((x) => ({ recording_id: x.recording_id, seen: x.title, title: x.seen })))
    old()
  })
  written.clear()
  taken.clear()
  old()
}

function old() {
  for (const about of ['titles', 'board', 'recording', 'playlist', 'lecture'])
    void client.invalidateQueries({ queryKey: [about] })
}

watch(course, () => (tried.value = ''))
watchEffect(() => nameTab(t('titles.name')))
</script>

<template>
  <section class="page">
    <h1>{{ t('titles.name') }}</h1>
    <p class="soft">{{ t('titles.lead') }}</p>
    <p class="bar">
      <ChoiceList
        :model-value="course"
        :label="t('titles.of')"
        :options="choices"
        @update:model-value="(c) => router.replace({ name: 'titles', query: { course: c || undefined } })"
      />
      <el-checkbox v-model="bare">{{ t('titles.only_bare') }}</el-checkbox>
    </p>
    <TitlePattern
      v-if="course && codes.get(course)"
      :key="course"
      :course="codes.get(course)!"
      :error="pattern ? page.error.value : undefined"
      @try="(p) => (tried = p)"
      @kept="client.invalidateQueries({ queryKey: keys.titles('', '').slice(0, 1) })"
    />
    <p v-else-if="!course" class="soft small">{{ t('titles.choose') }}</p>
    <FaultNote v-if="page.error.value && !pattern" :error="page.error.value" again @again="page.refetch()" />
    <UndoLine v-if="done" v-bind="done" :key="done.key" />
    <p v-if="page.data.value && page.data.value.lines.length === 0" class="soft">{{ t('titles.empty') }}</p>
    <p v-else-if="page.data.value && lines.length === 0" class="soft">{{ t('titles.none') }}</p>
    <template v-else-if="page.data.value">
      <el-table
        :data="lines"
        row-key="recording_id"
        :row-class-name="({ row: l }: { row: Line }) => (meant(l) ? 'meant' : '')"
      >
        <el-table-column width="46">
          <template #header>
            <el-checkbox
              :model-value="open.length > 0 && chosen.length === open.length"
              @change="chooseAll(Boolean($event))"
              ><span class="away">{{ t('titles.choose_all') }}</span></el-checkbox
            >
          </template>
          <template #default="{ row: l }">
            <el-checkbox
              :model-value="meant(l as Line)"
              :disabled="then(l as Line) === l.title"
              @change="choose(l as Line, Boolean($event))"
              ><span class="away">{{ t('titles.choose_it', { title: l.shown }) }}</span></el-checkbox
            >
          </template>
        </el-table-column>
        <el-table-column v-slot="{ row: l }" :label="t('titles.week')" width="150" class-name="small soft">
          {{ codes.get(l.course_id)?.code }}<template v-if="l.week">, {{ t('sheet.week', { n: l.week }) }}</template
          ><br />
          {{ l.starts_at ? dateText(l.starts_at, page.data.value!.zone) : t('date.ahead') }}
        </el-table-column>
        <el-table-column v-slot="{ row: l }" :label="t('titles.now')" min-width="260">
          <router-link :to="{ name: 'trim-bench', params: { recording: l.recording_id } }">{{ l.shown }}</router-link>
          <span v-if="l.title === ''" class="small soft bare">{{ t('titles.bare') }}</span>
        </el-table-column>
        <el-table-column v-slot="{ row: l }" :label="t('titles.then')" min-width="360">
          <el-input
            class="then"
            :model-value="then(l as Line)"
            maxlength="200"
            :aria-label="t('titles.then_of', { title: l.shown })"
            @input="(text) => write(l as Line, text)"
          />
          <span v-if="then(l as Line) === l.title" class="small soft">{{ t('titles.same') }}</span>
        </el-table-column>
      </el-table>
      <FaultNote v-if="problem" :error="problem" />
      <p class="give">
        <el-button type="primary" :disabled="busy || chosen.length === 0" @click="give">
          {{ t('titles.give', { n: chosen.length }, chosen.length) }}
        </el-button>
        <span v-if="chosen.length === 0" class="soft beside">{{ t('titles.nothing') }}</span>
      </p>
    </template>
  </section>
</template>

<style scoped>
.bar {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 24px;
  align-items: center;
  margin-top: 12px;
}

.el-table {
  margin: 14px 0;
}

.el-table :deep(tr:not(.meant)) .then {
  --el-input-text-color: var(--ink-2);
}

.give {
  position: sticky;
  bottom: 0;
  z-index: 3; /* above what a table lays over its own ground */
  margin: 0;
  padding: 12px 0;
  border-top: 1px solid var(--rule);
  background: var(--shell);
}

.bare {
  display: block;
}
</style>
