<script setup lang="ts">
/** The moments that were flagged, the newest first; each can be given a word while the capture goes on. */
import { useI18n } from 'vue-i18n'
import { timecode } from '../../parts/time'

export interface Flag {
  total: number
  word: string
  write: (word: string) => Promise<void>
}
defineProps<{ flags: Flag[] }>()
const { t } = useI18n()
</script>

<template>
  <ul v-if="flags.length > 0" class="plain flags" :aria-label="t('desk.markers')">
    <li v-for="f in flags" :key="f.total">
      <span class="mono">{{ timecode(f.total) }}</span>
      <input
        class="entry"
        type="text"
        maxlength="120"
        :value="f.word"
        :aria-label="t('desk.marker_word', { at: timecode(f.total) })"
        :placeholder="t('desk.marker_hint')"
        @change="f.write(($event.target as HTMLInputElement).value)"
      />
    </li>
  </ul>
</template>

<style scoped>
.flags {
  /* Room for the ring of what has the focus. */
  margin: 6px -4px -4px;
  padding: 4px;
  max-height: 180px;
  overflow: auto;
}

li {
  display: grid;
  grid-template-columns: 64px 1fr;
  align-items: center;
  gap: 8px;
  padding: 3px 0;
}

.entry {
  min-height: 30px;
  padding: 2px 8px;
  border: 1px solid var(--edge);
  border-radius: 4px;
  background: var(--shell);
  color: var(--ink);
  font: inherit;
}
</style>
