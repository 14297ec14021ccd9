<script setup lang="ts">
/** Recordings that were made elsewhere: taken in, matched to their lectures, and those that wait for a hand. */
import { useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'
import { useFiles } from '../../api/files'
import { keys } from '../../api/queries'
import FaultNote from '../../parts/FaultNote.vue'
import KnownFile from '../common/KnownFile.vue'
import { useChoosing } from '../../parts/choosing'
import UndoLine from '../../parts/UndoLine.vue'
import { nameTab } from '../../router'
import FileEntry from './FileEntry.vue'
import { filesOf, forget, sends, take, type Waiting } from './many'

const { t } = useI18n()
const client = useQueryClient()
const list = useFiles()
const over = ref(false)
const gone = ref<{ name: string; back: () => Promise<unknown> }>()
nameTab(t('place.files'))

type Line = Schemas['FileLine']
const files = computed(() => list.data.value?.files ?? [])
const here = computed(() => list.data.value?.zone ?? 'UTC')
const none = (f: Line) => !f.lecture && f.state !== 'sending' && f.state !== 'quiet'
const waiting = computed(() => files.value.filter((f) => none(f) && f.state !== 'faulty'))
const faulty = computed(() => files.value.filter((f) => none(f) && f.state === 'faulty'))
const coming = computed(() => files.value.filter((f) => f.state === 'sending' || f.state === 'quiet'))
const came = computed(() => files.value.filter((f) => f.lecture && f.state !== 'sending' && f.state !== 'quiet'))

/** What the server does not list yet, or never will. */
const alone = computed(() =>
  sends.filter((s) => {
    const state = s.sender?.now.state
    return state !== 'sent' && state !== 'stopped' && !coming.value.some((f) => f.track_id === s.sender?.now.track)
  }),
)
const mine = (f: Line): Waiting | undefined => sends.find((s) => s.sender?.now.track === f.track_id)
const sent = (f: Line) => {
  const s = mine(f)?.sender?.now
  return s && (s.state === 'sending' || s.state === 'waiting') ? s.sent : undefined
}

const asked = () => client.invalidateQueries({ queryKey: keys.files })
watch(() => sends.map((s) => `${s.sender?.now.track} ${s.sender?.now.state}`).join(), asked)

const choose = useChoosing(
  () => t('file.kinds'),
  true,
  (list) => take(list.map((file) => ({ file, words: '' }))),
)

async function drop(e: DragEvent) {
  over.value = false
  if (e.dataTransfer) take(await filesOf(e.dataTransfer))
}

function stop(f: Line) {
  const w = mine(f)
  if (w) forget(w)
}
</script>

<template>
  <section>
    <div class="top">
      <h1>{{ t('files.title') }}</h1>
      <router-link :to="{ name: 'bin' }">{{ t('bin.name') }}</router-link>
    </div>
    <div class="drop" :class="{ over }" @dragover.prevent="over = true" @dragleave="over = false" @drop.prevent="drop">
      <p>{{ t('files.text') }}</p>
      <el-button :type="waiting.length > 0 ? 'default' : 'primary'" @click="choose">
        {{ t('files.choose') }}
      </el-button>
    </div>
    <FaultNote
      v-if="list.error.value && !list.data.value"
      :error="list.error.value"
      :missing="t('board.no_term')"
      again
      @again="list.refetch()"
    />
    <UndoLine
      v-if="gone"
      :key="gone.name"
      :text="t('files.gone', { name: gone.name })"
      :undo="gone.back"
      @undone="asked"
    />
    <template v-if="waiting.length > 0">
      <h2>{{ t('files.waiting', { n: waiting.length }, waiting.length) }}</h2>
      <ul class="plain page">
        <li v-for="f in waiting" :key="f.track_id">
          <FileEntry :file="f" :zone="here" @away="(name, back) => (gone = { name, back })" />
        </li>
      </ul>
    </template>
    <template v-if="alone.length + coming.length > 0">
      <h2>{{ t('files.coming') }}</h2>
      <ul class="plain page">
        <li v-for="s in alone" :key="s.file.name + s.file.size" class="alone">
          <KnownFile
            v-if="s.sender?.now.here"
            :name="s.file.name"
            :here="s.sender.now.here"
            @leave="forget(s)"
            @again="s.sender?.again()"
          />
          <template v-else-if="s.sender?.now.state === 'failed'">
            <b>{{ s.file.name }}</b>
            <FaultNote :error="s.sender.now.fault" />
            <el-button link @click="forget(s)">{{ t('files.forget') }}</el-button>
          </template>
          <p v-else role="status">
            <b>{{ s.file.name }}</b>
            <span class="soft small beside">{{ t(s.sender ? 'files.begins' : 'files.queued') }}</span>
          </p>
        </li>
        <li v-for="f in coming" :key="f.track_id">
          <FileEntry
            :file="f"
            :zone="here"
            :sent="sent(f)"
            @stop="stop(f)"
            @away="(name, back) => (gone = { name, back })"
          />
        </li>
      </ul>
    </template>
    <template v-if="faulty.length > 0">
      <h2>{{ t('files.faulty') }}</h2>
      <ul class="plain page">
        <li v-for="f in faulty" :key="f.track_id">
          <FileEntry :file="f" :zone="here" @away="(name, back) => (gone = { name, back })" />
        </li>
      </ul>
    </template>
    <template v-if="list.data.value">
      <h2>{{ t('files.came') }}</h2>
      <p v-if="came.length === 0" class="page none">{{ t('files.none') }}</p>
      <ul v-else class="plain page">
        <li v-for="f in came" :key="f.track_id"><FileEntry :file="f" :zone="here" /></li>
      </ul>
    </template>
  </section>
</template>

<style scoped>
.top {
  display: flex;
  gap: 20px;
  align-items: baseline;
  justify-content: space-between;
}

.drop {
  position: relative;
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px 24px;
  margin: 10px 0 6px;
  padding: 16px 20px;
  border: 1px dashed var(--edge);
  border-radius: 4px;
}

.drop p {
  flex: 1 1 420px;
  margin: 0;
}

.over {
  border-style: solid;
  background: var(--kelp-soft);
}

h2 {
  margin: 22px 0 6px;
}

ul.page,
.none {
  padding: 0;
}

.none {
  padding: 14px 20px;
}

li + li {
  border-top: 1px solid var(--rule);
}

.alone {
  padding: 12px 20px;
}
</style>
