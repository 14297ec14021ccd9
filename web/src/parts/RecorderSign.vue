<script setup lang="ts">
/** How a recorder is: by a sign and in words. */
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../api/client'
import { clockText, megabytes } from './time'

const props = defineProps<{ recorder: Schemas['RecorderLine']; zone: string }>()
const { t } = useI18n()
const bad = computed(() => props.recorder.state === 'trouble' || props.recorder.state === 'taken_back')
const sign = computed(() => {
  if (bad.value) return '!'
  if (props.recorder.state === 'new') return '…'
  return props.recorder.capturing ? '●' : '✓'
})
const words = computed(() => {
  const r = props.recorder
  const heard = r.heard_at ? clockText(r.heard_at, props.zone) : ''
  const values: Record<string, Record<string, string>> = {
    not_heard: { at: heard },
    clock_off: { n: String(Math.round(Math.abs(r.clock_ms) / 1000)) },
    behind: { n: megabytes(r.unsent_bytes) },
  }
  const out =
    r.capturing && r.state !== 'taken_back' && !r.troubles.includes('not_heard') ? [t('recorder.capturing')] : []
  if (r.state === 'trouble') out.push(...r.troubles.map((x) => t(`recorder.${x}`, values[x] ?? {})))
  else if (out.length === 0) out.push(t(`recorder.${r.state}`))
  return out.join(', ')
})
</script>

<template>
  <span class="recorder" :class="{ bad, capturing: recorder.capturing && !bad }">
    <span class="sign" aria-hidden="true">{{ sign }}</span>{{ words }}
  </span>
</template>

<style scoped>
.sign {
  display: inline-block;
  width: 1.2em;
  font-weight: 700;
}

.bad {
  color: var(--ink);
  font-weight: 600;
}

.bad .sign,
.capturing .sign {
  color: var(--tally);
}
</style>
