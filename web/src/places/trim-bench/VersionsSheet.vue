<script setup lang="ts">
/** Every version of the cuts, with who and when; one can be looked at beside what stands now, and brought back. */
import { useI18n } from 'vue-i18n'
import { useVersions, type BenchChange } from '../../api/bench'
import type { Schemas } from '../../api/client'
import FaultNote from '../../parts/FaultNote.vue'
import PageSheet from '../../parts/PageSheet.vue'
import { clockText, dateText, timecode } from '../../parts/time'

type Version = Schemas['CutVersion']
const props = defineProps<{
  open: boolean
  recording: string
  zone: string
  looking: Version | undefined
  make: (c: BenchChange) => Promise<boolean>
}>()
const emit = defineEmits<{ close: []; look: [v: Version | undefined] }>()
const { t } = useI18n()
const list = useVersions(
  () => props.recording,
  () => props.open,
)
const never = '00000000-0000-0000-0000-000000000000'
const when = (at: string) => `${dateText(at, props.zone)}, ${clockText(at, props.zone)}`

function differs(v: Version): string {
  if (v.current) return t('versions.now')
  const parts = [
    v.more_ms ? t('versions.more', { n: timecode(v.more_ms, true) }) : '',
    v.less_ms ? t('versions.less', { n: timecode(v.less_ms, true) }) : '',
  ].filter((x) => x)
  return parts.join(', ') || t('versions.same')
}

async function back(v: Version) {
  if (await props.make({ do: 'bring_back', version: v.id })) emit('look', undefined)
}
</script>

<template>
  <PageSheet :open="open" :title="t('versions.title')" @close="emit('close')">
    <p class="soft small">{{ t('versions.help') }}</p>
    <FaultNote v-if="list.error.value" :error="list.error.value" again @again="list.refetch()" />
    <ol class="plain">
      <li v-for="v in list.data.value?.versions" :key="v.id" :class="{ now: v.current }">
        <div>
          <b>{{ v.id === never ? t('versions.captured') : v.by || t('versions.itself') }}</b>
          <span class="soft">{{ when(v.at) }}</span>
        </div>
        <div class="small">
          {{ t('versions.length', { n: timecode(v.published_ms) }) }} · {{ differs(v) }}
          <template v-if="v.as_of"> · {{ t('versions.as_of', { date: when(v.as_of) }) }}</template>
          <template v-if="v.published"> · {{ t('versions.published') }}</template>
        </div>
        <div v-if="!v.current" class="ways">
          <el-button
            link
            :aria-pressed="looking?.id === v.id"
            @click="emit('look', looking?.id === v.id ? undefined : v)"
          >
            {{ t(looking?.id === v.id ? 'versions.look_off' : 'versions.look') }}
          </el-button>
          <el-button link @click="back(v)">{{ t('versions.back') }}</el-button>
        </div>
      </li>
    </ol>
  </PageSheet>
</template>

<style scoped>
li {
  padding: 8px 0 8px 10px;
  border-inline-start: 3px solid transparent;
  border-bottom: 1px solid var(--rule);
}

.now {
  border-inline-start-color: var(--kelp);
}

li > div:first-child {
  display: flex;
  justify-content: space-between;
  gap: 10px;
}

.ways {
  display: flex;
  gap: 14px;
}
</style>
