<script setup lang="ts">
/** The chapters of a recording: as they are proposed, or as someone wrote them. */
import { useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { setChapters, turnChapters, useChapters } from '../../api/captions'
import { Problem, type Schemas } from '../../api/client'
import { keys } from '../../api/queries'
import FaultNote from '../../parts/FaultNote.vue'
import { useForm } from '../../parts/form'
import PageSheet from '../../parts/PageSheet.vue'
import { timecode } from '../../parts/time'

const props = defineProps<{ open: boolean; recording: string; position: number }>()
const emit = defineEmits<{ close: []; seek: [ms: number] }>()
const { t } = useI18n()
const client = useQueryClient()
const chapters = useChapters(() => props.recording)
/** As they were when what is written here was begun. */
const seen = ref<Schemas['Chapter'][]>([])
const {
  draft,
  changed: written,
  problem: fault,
  busy,
  send,
  reset,
} = useForm(() => chapters.data.value && { chapters: chapters.data.value.chapters })
const list = computed({
  get: () => draft.value?.chapters ?? [],
  set: (chapters) => (draft.value = { chapters }),
})
const kept = ref('')
watch(
  () => chapters.data.value?.chapters,
  (now) => {
    if (now && !written.value) seen.value = now
  },
  { immediate: true },
)

function add() {
  const at = Math.round(props.position)
  if (list.value.some((c) => c.at === at)) return
  list.value = [...list.value, { at, title: t('chapters.new') }].sort((a, b) => a.at - b.at)
}

/** make does something that gives the chapters as they are then. */
async function make(what: () => Promise<Schemas['Chapters']>, done = '') {
  kept.value = ''
  const now = await send(what)
  if (now) {
    client.setQueryData(keys.chapters(props.recording), now)
    show(now.chapters)
    kept.value = done
  } else if (other()) show((await chapters.refetch()).data?.chapters ?? [])
}

/** show goes on from chapters as they are. */
function show(now: Schemas['Chapter'][]) {
  seen.value = now
  list.value = now.map((c) => ({ ...c }))
}

const keep = (proposed = false) =>
  make(
    () => setChapters(props.recording, { seen: seen.value, chapters: proposed ? [] : list.value, proposed }),
    t('chapters.kept'),
  )

/** What is not kept yet goes first. */
function undo() {
  if (written.value) reset()
  else void make(() => turnChapters(props.recording, 'undo'))
}

const other = () => fault.value instanceof Problem && fault.value.kind === 'other_line'
</script>

<template>
  <PageSheet :open="open" :title="t('chapters.title')" @close="emit('close')">
    <p class="soft">{{ t('chapters.help') }}</p>
    <FaultNote v-if="chapters.error.value" :error="chapters.error.value" again @again="chapters.refetch()" />
    <p v-if="chapters.data.value?.unread" role="status">{{ t('chapters.unread') }}</p>
    <p v-else-if="chapters.data.value && list.length === 0">{{ t('chapters.empty') }}</p>
    <ol class="plain">
      <li v-for="c in list" :key="c.at">
        <el-button link class="mono" :aria-label="t('chapters.go', { at: timecode(c.at) })" @click="emit('seek', c.at)">
          {{ timecode(c.at) }}
        </el-button>
        <el-input v-model="c.title" maxlength="120" :aria-label="t('chapters.called', { at: timecode(c.at) })" />
        <el-button
          link
          :aria-label="t('chapters.remove', { at: timecode(c.at) })"
          @click="list = list.filter((x) => x !== c)"
        >
          {{ t('remove') }}
        </el-button>
      </li>
    </ol>
    <p>
      <el-button link @click="add">{{ t('chapters.add', { at: timecode(position) }) }}</el-button>
    </p>
    <p v-if="other()" role="alert" class="tally">{{ t('chapters.other') }}</p>
    <FaultNote v-else-if="fault" :error="fault" />
    <p class="acts">
      <el-button type="primary" :disabled="busy || (!written && chapters.data.value?.by_hand)" @click="keep()">
        {{ t('chapters.keep') }}
      </el-button>
      <el-button :disabled="busy || !(written || chapters.data.value?.can_undo)" @click="undo">
        {{ t('captions.undo') }}
      </el-button>
      <el-button
        :disabled="busy || written || !chapters.data.value?.can_redo"
        @click="make(() => turnChapters(recording, 'redo'))"
      >
        {{ t('captions.redo') }}
      </el-button>
      <el-button v-if="chapters.data.value?.by_hand" link :disabled="busy" @click="keep(true)">
        {{ t('chapters.propose') }}
      </el-button>
      <span role="status">{{ kept }}</span>
    </p>
    <p class="small soft">
      {{ t('chapters.out') }}
      <a :href="`/api/recordings/${recording}/chapters/file?form=vtt`" download>WebVTT</a>,
      <a :href="`/api/recordings/${recording}/chapters/file?form=json`" download>JSON</a>
    </p>
  </PageSheet>
</template>

<style scoped>
li {
  display: grid;
  grid-template-columns: 64px minmax(0, 1fr) auto;
  gap: 10px;
  align-items: center;
  padding: 4px 0;
}

.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 16px;
  align-items: center;
  margin-top: 12px;
}
</style>
