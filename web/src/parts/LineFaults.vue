<script setup lang="ts">
/** What is wrong in files, each with its line and column. */
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../api/client'
import { say } from '../messages/said'

defineProps<{ list: Schemas['LineFault'][]; all: number; title: string; grave?: boolean }>()
const { t } = useI18n()
const where = (f: Schemas['LineFault']) =>
  [f.file, f.line && t('fault_at.line', { n: f.line }), f.column && t('fault_at.column', { column: f.column })]
    .filter(Boolean)
    .join(' ')
</script>

<template>
  <section class="faults" :class="{ grave }">
    <h2>{{ title }}</h2>
    <ul class="plain">
      <li v-for="(f, n) in list" :key="n">
        <span class="soft where">{{ where(f) }}</span>
        {{ say(f) }}
      </li>
    </ul>
    <p v-if="all > list.length" class="soft">{{ t('fault_at.more', { n: all - list.length }) }}</p>
  </section>
</template>

<style scoped>
.faults {
  margin-top: 14px;
  padding: 12px 18px;
  border-inline-start: 3px solid var(--edge);
  background: var(--shell);
}

.grave {
  border-color: var(--tally);
  background: var(--tally-soft);
}

ul {
  max-height: 320px;
  overflow-y: auto;
}

li {
  padding: 3px 0;
}

.where {
  margin-inline-end: 8px;
}
</style>
