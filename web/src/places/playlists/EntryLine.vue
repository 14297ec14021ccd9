<script setup lang="ts">
/** One line of a playlist: a topic heading, or a recording with its lantern. */
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'
import LanternSign from '../../parts/LanternSign.vue'
import WrittenText from '../../parts/WrittenText.vue'
import { dateText, timecode } from '../../parts/time'

const props = defineProps<{ entry: Schemas['PlaylistLine']; zone: string }>()
const emit = defineEmits<{ step: [by: -1 | 1]; remove: []; rename: [text: string]; light: [on: boolean]; who: [] }>()
const { t } = useI18n()

const name = () => props.entry.heading ?? props.entry.title
</script>

<template>
  <li :class="{ heading: entry.heading !== undefined }">
    <el-button
      class="grip"
      :aria-label="t('playlist.move', { title: name() })"
      @keydown.up.prevent="emit('step', -1)"
      @keydown.down.prevent="emit('step', 1)"
    >
      <svg width="10" height="16" viewBox="0 0 10 16" aria-hidden="true">
        <path d="M1 4l4-3 4 3M1 12l4 3 4-3" fill="none" stroke="currentColor" stroke-width="1.6" />
      </svg>
    </el-button>
    <div v-if="entry.heading !== undefined" class="text">
      <WrittenText
        quiet
        needed
        :text="entry.heading"
        :label="t('playlist.heading')"
        :max="120"
        @write="(text) => emit('rename', text)"
      />
    </div>
    <template v-else>
      <span class="week soft">{{ entry.week ? t('sheet.week', { n: entry.week }) : '' }}</span>
      <span class="title">
        <router-link :to="{ name: entry.from ? 'watch' : 'trim-bench', params: { recording: entry.recording_id } }">{{
          entry.title
        }}</router-link>
        <span v-if="entry.starts_at" class="soft small beside"> {{ dateText(entry.starts_at, zone) }}</span>
        <span v-if="entry.from" class="soft small beside"> {{ t('lighting.from', { course: entry.from }) }}</span>
      </span>
      <span class="mono soft">{{ entry.length_ms ? timecode(entry.length_ms) : '' }}</span>
      <el-button
        link
        class="who"
        :aria-label="t('playlist.who', { title: entry.title, can: entry.can, of: entry.of })"
        @click="emit('who')"
      >
        <LanternSign :state="entry.light" :can="entry.can" :of="entry.of" mute :size="22" /> {{ entry.can }}/{{
          entry.of
        }}
      </el-button>
      <el-button
        v-if="!entry.lit"
        type="primary"
        :aria-label="t('playlist.light_it', { title: entry.title })"
        @click="emit('light', true)"
      >
        {{ t('playlist.light') }}
      </el-button>
      <el-button v-else :aria-label="t('playlist.darken_it', { title: entry.title })" @click="emit('light', false)">
        {{ t('playlist.darken') }}
      </el-button>
    </template>
    <el-button link class="out" :aria-label="t('playlist.remove_it', { title: name() })" @click="emit('remove')">
      {{ t('playlist.remove') }}
    </el-button>
  </li>
</template>

<style scoped>
li {
  display: grid;
  grid-template-columns: 26px 64px minmax(0, 1fr) 60px 84px 92px auto;
  gap: 14px;
  align-items: center;
  padding: 8px 0;
  border-bottom: 1px solid var(--rule);
  background: var(--shell);
}

.heading {
  grid-template-columns: 26px 1fr auto;
  padding-top: 20px;
}

li.heading:first-child {
  padding-top: 4px;
}

.text {
  font: 600 18px/1.3 var(--serif);
}

.grip {
  min-width: 26px;
  min-height: 28px;
  border: 0;
  background: none;
  color: var(--ink-3);
  cursor: grab;
}

.who.who.who,
.who.who.who :deep(> span) {
  display: flex;
  gap: 8px;
  align-items: center;
  text-decoration: none;
}

.el-button {
  padding: 4px 10px;
}

@media (max-width: 800px) {
  li {
    display: flex;
    flex-wrap: wrap;
  }
}
</style>
