<script setup lang="ts">
/**
 * What the bench says before anything else: that it lies in the bin, was trimmed by itself, split or joined, or is
 * here twice.
 */
import { useQueryClient } from '@tanstack/vue-query'
import { ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRouter } from 'vue-router'
import { rearranged, undoArrangement, useTwins, type BenchChange } from '../../api/bench'
import type { Schemas } from '../../api/client'
import FaultNote from '../../parts/FaultNote.vue'
import { useForm } from '../../parts/form'
import { dateText, timecode } from '../../parts/time'
import TwinsSheet from './TwinsSheet.vue'

const props = defineProps<{ bench: Schemas['Bench']; make: (c: BenchChange) => Promise<boolean> }>()
const emit = defineEmits<{ restore: [] }>()
const { t } = useI18n()
const client = useQueryClient()
const router = useRouter()
const twins = useTwins(
  () => props.bench.id,
  () => props.bench.state === 'ready' && !props.bench.deleted,
)
const comparing = ref(false)
const { busy, problem, send } = useForm()

async function undo(id: string) {
  const got = await send(() => undoArrangement(props.bench.id, id))
  if (!got) return
  rearranged(client)
  if (got.rest !== props.bench.id) await router.push({ name: 'trim-bench', params: { recording: got.rest } })
}

function said(a: Schemas['Arranged']): string {
  if (a.kind === 'join') return t('split.joined')
  if (!a.first) return t('split.from', { title: a.title })
  return a.other ? t('split.done', { title: a.title }) : t('split.done_gone')
}
</script>

<template>
  <p v-if="bench.deleted" class="note gone">
    {{ t('bench.deleted', { date: dateText(bench.gone_at ?? '', bench.zone) }) }}
    <el-button link @click="emit('restore')">{{ t('bench.bring_back') }}</el-button>
    <router-link :to="{ name: 'bin' }">{{ t('bench.bin') }}</router-link>
  </p>
  <template v-else>
    <p v-for="d in bench.differs" :key="d.what" class="note" role="alert">
      {{ t(`bench.differs_${d.what}`, { came: timecode(d.came_ms, true), watchable: timecode(d.watchable_ms, true) }) }}
    </p>
    <p v-if="bench.by_itself" class="note" role="status">
      {{ t('bench.by_itself') }}
      <el-button link @click="make({ do: 'undo' })">{{ t('undo') }}</el-button>
    </p>
    <p v-if="bench.arranged" class="note" role="status">
      {{ said(bench.arranged) }}
      <span class="soft small">{{
        t('split.who', { name: bench.arranged.by, date: dateText(bench.arranged.at, bench.zone) })
      }}</span>
      <router-link
        v-if="bench.arranged.other"
        :to="{ name: 'trim-bench', params: { recording: bench.arranged.other } }"
        >{{ t('split.open') }}</router-link
      >
      <el-button link :disabled="busy" @click="undo(bench.arranged.id)">{{ t('undo') }}</el-button>
    </p>
    <FaultNote v-if="problem" :error="problem" />
    <p v-if="twins.data.value?.others[0]" class="note" role="status">
      {{ t(`twins.note_${twins.data.value.others[0].why}`) }}
      <el-button link @click="comparing = true">{{ t('twins.compare') }}</el-button>
    </p>
    <TwinsSheet
      v-if="twins.data.value?.others[0]"
      :open="comparing"
      :twins="twins.data.value"
      :zone="bench.zone"
      @close="comparing = false"
    />
  </template>
</template>

<style scoped>
.note {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
  margin: 6px 0;
  padding: 6px 12px;
  border-inline-start: 3px solid var(--edge);
  background: var(--kelp-soft);
}

.gone {
  background: var(--struck);
}
</style>
