<script setup lang="ts">
/** The moments that were flagged, the newest first; each can be given a word while the capture goes on. */
import { useI18n } from 'vue-i18n'
import WrittenText from '../../parts/WrittenText.vue'
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
      <WrittenText
        class="compact"
        :text="f.word"
        :label="t('desk.marker_word', { at: timecode(f.total) })"
        :max="120"
        :placeholder="t('desk.marker_hint')"
        @write="f.write"
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
</style>
