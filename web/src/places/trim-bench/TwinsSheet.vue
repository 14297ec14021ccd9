<script setup lang="ts">
/** Two recordings that may be one, side by side; one press keeps one of them. */
import { useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRouter } from 'vue-router'
import { join, rearranged, setDeleted, wantBoth } from '../../api/bench'
import type { Schemas } from '../../api/client'
import FaultNote from '../../parts/FaultNote.vue'
import { useForm } from '../../parts/form'
import PageSheet from '../../parts/PageSheet.vue'
import { clockText, dateText, megabytes, timecode } from '../../parts/time'

type Line = Schemas['TwinLine']
const props = defineProps<{ open: boolean; twins: Schemas['Twins']; zone: string }>()
const emit = defineEmits<{ close: [] }>()
const { t } = useI18n()
const client = useQueryClient()
const router = useRouter()
const { busy, problem, act } = useForm()
const other = computed(() => props.twins.others[0]!)
const pair = computed(() => [props.twins.one, other.value])

const why = computed(() => {
  const o = other.value
  const n = Math.abs(o.offset_ms)
  const shift = n < 1000 ? '' : t(o.offset_ms > 0 ? 'twins.later' : 'twins.earlier', { n: timecode(n) })
  return `${t(`twins.why_${o.why}`, { n: o.share })} ${shift}`.trim()
})

async function does(what: () => Promise<unknown>, then?: () => unknown) {
  if (!(await act(what))) return
  emit('close')
  rearranged(client)
  await then?.()
}

/** keep keeps one of the two; the other goes to the bin. */
const keep = (line: Line) => {
  const gone = pair.value.find((x) => x.id !== line.id)!
  return does(
    () => setDeleted(gone.id, true),
    () => router.push({ name: 'trim-bench', params: { recording: line.id } }),
  )
}

const rows: [string, (x: Line) => string][] = [
  ['began', (x) => `${dateText(x.started_at, props.zone)}, ${clockText(x.started_at, props.zone)}`],
  ['came', (x) => t(`twins.source_${x.source}`, { name: x.file_name })],
  ['length', (x) => timecode(x.length_ms)],
  ['picture', (x) => (x.width ? t('twins.size', { w: x.width, h: x.height }) : t('twins.no_picture'))],
  ['loudness', (x) => (x.loudness === undefined ? '' : t('twins.lufs', { n: x.loudness.toFixed(1) }))],
  ['stored', (x) => t('twins.megabytes', { n: megabytes(x.stored_bytes) })],
  [
    'done',
    (x) =>
      (['trimmed', 'titled', 'lit'] as const)
        .filter((k) => x[k])
        .map((k) => t(`twins.${k}`))
        .join(', ') || t('twins.nothing'),
  ],
]
</script>

<template>
  <PageSheet :open="open" :title="t('twins.title')" wide @close="emit('close')">
    <p>{{ why }}</p>
    <table class="plain-table">
      <thead>
        <tr>
          <td />
          <th v-for="(x, n) in pair" :key="x.id" scope="col">
            <span class="soft small">{{ t(n ? 'twins.other' : 'twins.this') }}</span>
            <router-link v-if="n && x.mine" :to="{ name: 'trim-bench', params: { recording: x.id } }">{{
              x.title
            }}</router-link>
            <span v-else>{{ x.title || `${x.lecture.course} ${x.lecture.course_title}` }}</span>
          </th>
        </tr>
      </thead>
      <tbody>
        <tr>
          <td />
          <td v-for="x in pair" :key="x.id">
            <img v-if="x.slide" :src="x.slide" alt="" width="240" height="135" />
            <span v-else class="none soft small">{{ x.mine ? t('twins.no_slide') : t('twins.elsewhere') }}</span>
          </td>
        </tr>
        <tr v-for="[name, text] in rows" :key="name">
          <th scope="row">{{ t(`twins.${name}`) }}</th>
          <td v-for="x in pair" :key="x.id" :class="{ unlike: text(pair[0]!) !== text(pair[1]!) }">{{ text(x) }}</td>
        </tr>
        <tr>
          <td />
          <td v-for="(x, n) in pair" :key="x.id">
            <el-button
              type="primary"
              :disabled="busy || !pair[1 - n]!.mine"
              :aria-label="`${t('twins.keep')}: ${t(n ? 'twins.other' : 'twins.this')}`"
              @click="keep(x)"
            >
              {{ t('twins.keep') }}
            </el-button>
          </td>
        </tr>
      </tbody>
    </table>
    <p class="soft small">{{ t('twins.keep_help') }}</p>
    <FaultNote v-if="problem" :error="problem" />
    <p class="ways">
      <el-button
        v-if="other.why === 'lecture' && other.mine"
        :disabled="busy"
        @click="does(() => join(twins.one.id, other.id))"
      >
        {{ t('twins.join') }}
      </el-button>
      <el-button :disabled="busy" @click="does(() => wantBoth(twins.one.id, other.id, true))">
        {{ t('twins.both') }}
      </el-button>
    </p>
  </PageSheet>
</template>

<style scoped>
table {
  width: 100%;
  border-collapse: collapse;
}

table :is(th, td) {
  padding: 8px 12px 8px 0;
  border-bottom: 1px solid var(--rule);
  font-weight: 400;
  text-align: start;
  vertical-align: baseline;
}

thead th > * {
  display: block;
}

table tbody > tr > th {
  color: var(--ink-3);
}

table.plain-table tbody > tr > .unlike {
  font-weight: 600;
}

.none {
  display: grid;
  width: 240px;
  height: 135px;
  place-items: center;
  border: 1px dashed var(--edge);
  text-align: center;
}

.ways {
  display: flex;
  gap: 10px;
}
</style>
