<script setup lang="ts">
/** What can be done to the cuts: to the selection, when there is one, or to the whole. */
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import type { BenchChange } from '../../api/bench'
import type { Schemas } from '../../api/client'
import type { Stretch } from '../../parts/kept'
import { timecode } from '../../parts/time'

const props = defineProps<{
  bench: Schemas['Bench']
  strip: Schemas['StripPage'] | undefined
  selection: Stretch | undefined
  position: number
  /** How much a line holds, in milliseconds. */
  perLine: number | undefined
}>()
const emit = defineEmits<{
  strike: []
  restore: []
  make: [c: BenchChange]
  split: []
  versions: []
  zoom: [by: -1 | 1]
  help: []
}>()
const { t } = useI18n()

const loudness = computed(() => {
  const g = props.strip?.gain
  if (!g) return ''
  const said = { db: Math.abs(g.db).toFixed(1), to: (g.loudness + g.db).toFixed(1).replace('-', '−') }
  return t(g.db < 0 ? 'bench.quieter' : g.limited ? 'bench.limited' : 'bench.louder', said)
})
const line = computed(() => {
  const s = (props.perLine ?? 0) / 1000
  return s < 60 ? t('bench.seconds_line', { n: s }) : t('bench.minutes_line', { n: s / 60 })
})
</script>

<template>
  <div class="tools">
    <template v-if="selection">
      <span role="status">{{
        t('bench.selected', {
          from: timecode(selection.start, true),
          to: timecode(selection.end, true),
          n: timecode(selection.end - selection.start, true),
        })
      }}</span>
      <el-button @click="emit('strike')">{{ t('strip.strike') }} <kbd>x</kbd></el-button>
      <el-button @click="emit('restore')">{{ t('strip.restore') }} <kbd>r</kbd></el-button>
      <template v-if="bench.second_video">
        <el-button @click="emit('make', { do: 'lead', ...selection })">
          {{ t('bench.lead') }}
        </el-button>
        <el-button @click="emit('make', { do: 'follow', ...selection })">
          {{ t('bench.follow') }}
        </el-button>
      </template>
    </template>
    <span v-else class="soft">
      {{ t('bench.lengths', { captured: timecode(bench.length_ms), kept: timecode(bench.published_ms) }) }}
      <template v-if="bench.struck.length">
        · {{ t('bench.struck', { n: bench.struck.length }, bench.struck.length) }}</template
      >
      <template v-if="!bench.audio"> · {{ t('bench.no_sound') }}</template>
      <template v-if="!bench.video"> · {{ t('bench.no_pictures') }}</template>
    </span>
    <span class="right">
      <el-button :disabled="!bench.can_undo" @click="emit('make', { do: 'undo' })">
        {{ t('bench.undo') }}
      </el-button>
      <el-button :disabled="!bench.can_redo" @click="emit('make', { do: 'redo' })">
        {{ t('bench.redo') }}
      </el-button>
      <el-button @click="emit('versions')">{{ t('bench.versions') }}</el-button>
      <el-button :aria-label="t('keys.title')" @click="emit('help')">?</el-button>
    </span>
  </div>
  <div v-if="strip" class="second soft small">
    <span>{{ loudness }}</span>
    <span class="right">
      <el-button link @click="emit('split')">
        {{ t('bench.split', { at: timecode(position) }) }}
      </el-button>
      <span class="zoom">
        <el-button link :aria-label="t('bench.zoom_out')" @click="emit('zoom', -1)">−</el-button>
        <span role="status">{{ line }}</span>
        <el-button link :aria-label="t('bench.zoom_in')" @click="emit('zoom', 1)">+</el-button>
      </span>
    </span>
  </div>
</template>

<style scoped>
.tools {
  position: sticky;
  top: 0;
  z-index: 1;
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
  min-height: 44px;
  padding: 4px 0;
  background: var(--shell);
}

.second {
  display: flex;
  gap: 12px;
  align-items: center;
}

.right {
  display: flex;
  gap: 8px;
  align-items: center;
  margin-inline-start: auto;
}

.second .right {
  gap: 18px;
}

.zoom {
  display: flex;
  gap: 4px;
  align-items: center;
}

.zoom .el-button {
  min-width: 24px;
}
</style>
