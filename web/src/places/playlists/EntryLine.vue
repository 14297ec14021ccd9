<script setup lang="ts">
/** One line of a playlist: a topic heading, a recording with its lantern in each course, a page elsewhere or a file. */
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Entry, EntryText } from '../../api/playlists'
import LanternSign from '../../parts/LanternSign.vue'
import WrittenText from '../../parts/WrittenText.vue'
import { handoutAt } from '../../api/handouts'
import { bytesText, dateText, timecode } from '../../parts/time'

const props = defineProps<{
  entry: Entry
  /** The course that shows it. */
  course: string
  zone: string
  /** It belongs to the course, which may change it. */
  mine: boolean
  /** It is among those to which the same is done. */
  chosen: boolean
  /** The playlist keeps itself filled. */
  filling: boolean
  /** It stands where one puts it. */
  movable: boolean
}>()
const emit = defineEmits<{
  step: [by: -1 | 1]
  choose: []
  remove: []
  word: [text: EntryText]
  light: [on: boolean]
  who: [course?: string]
}>()
const { t } = useI18n()

const kind = computed(() => {
  const e = props.entry
  return e.heading !== undefined ? 'heading' : e.address || e.file ? 'link' : 'lecture'
})
const name = computed(() => props.entry.heading ?? props.entry.title)
const word = (part: Partial<EntryText>) =>
  emit('word', { title: name.value, about: props.entry.about, address: props.entry.address, ...part })
</script>

<template>
  <li :class="[kind, { chosen }]">
    <el-button
      v-if="mine"
      class="grip"
      :aria-label="t(movable ? 'playlist.move' : 'playlist.choose', { title: name })"
      :aria-pressed="chosen"
      @click="emit('choose')"
      @keydown.up.prevent="emit('step', -1)"
      @keydown.down.prevent="emit('step', 1)"
    >
      <svg width="12" height="16" viewBox="0 0 12 16" aria-hidden="true">
        <path v-if="chosen" d="M1 8.5l3.5 3.5L11 4.5" fill="none" stroke="currentColor" stroke-width="2.2" />
        <path v-else d="M2 4l4-3 4 3M2 12l4 3 4-3" fill="none" stroke="currentColor" stroke-width="1.6" />
      </svg>
    </el-button>
    <span v-else />
    <div v-if="kind === 'heading'" class="text">
      <template v-if="mine">
        <div class="topic">
          <WrittenText
            quiet
            needed
            :text="name"
            :label="t('playlist.heading')"
            :max="120"
            @write="(title) => word({ title })"
          />
        </div>
        <WrittenText
          quiet
          :text="entry.about ?? ''"
          :label="t('playlist.about_heading', { title: name })"
          :placeholder="t('playlist.sentence')"
          :max="500"
          @write="(about) => word({ about })"
        />
      </template>
      <template v-else>
        <b class="topic">{{ name }}</b>
        <span v-if="entry.about" class="below">{{ entry.about }}</span>
      </template>
    </div>
    <div v-else-if="kind === 'link'" class="text">
      <WrittenText
        v-if="mine"
        quiet
        needed
        :text="entry.title"
        :label="t(entry.file ? 'playlist.file_title' : 'playlist.page_title')"
        :max="120"
        @write="(title) => word({ title })"
      />
      <span v-if="entry.file" class="small">
        <a :href="handoutAt(course, entry.file.id)" download>{{ mine ? entry.file.name : entry.title }}</a>
        <span class="soft beside"> {{ bytesText(entry.file.bytes) }}</span>
      </span>
      <a v-else class="small" :href="entry.address" target="_blank" rel="noopener noreferrer">{{
        mine ? entry.address : entry.title
      }}</a>
    </div>
    <template v-else>
      <span class="week soft">{{ entry.week ? t('sheet.week', { n: entry.week }) : '' }}</span>
      <span class="title">
        <router-link
          :to="{ name: entry.from || !mine ? 'watch' : 'trim-bench', params: { recording: entry.recording_id } }"
          >{{ entry.title }}</router-link
        >
        <span v-if="entry.parts" class="small beside">
          {{ t('playlist.part', { part: entry.part, of: entry.parts }) }}</span
        >
        <span v-if="entry.starts_at" class="soft small beside"> {{ dateText(entry.starts_at, zone) }}</span>
        <span v-if="entry.from" class="soft small beside"> {{ t('lighting.from', { course: entry.from }) }}</span>
        <span v-if="entry.filled && filling" class="soft small beside"> {{ t('filling.came') }}</span>
        <span v-if="entry.elsewhere" class="elsewhere">
          <el-button
            v-for="c in entry.elsewhere"
            :key="c.course_id"
            link
            class="who small"
            :aria-label="t('playlist.who_there', { title: entry.title, can: c.can, of: c.of, course: c.code })"
            @click="emit('who', c.course_id)"
          >
            {{ c.code }} <LanternSign :state="c.light" :can="c.can" :of="c.of" mute :size="18" /> {{ c.can }}/{{ c.of }}
          </el-button>
        </span>
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
    <el-button
      v-if="mine"
      link
      class="out"
      :aria-label="t('playlist.remove_it', { title: name })"
      @click="emit('remove')"
    >
      {{ t('playlist.remove') }}
    </el-button>
  </li>
</template>

<style scoped>
li {
  display: grid;
  grid-template-columns: 28px 64px minmax(0, 1fr) 60px 84px 92px auto;
  gap: 14px;
  align-items: center;
  padding: 8px 0;
  border-bottom: 1px solid var(--rule);
  background: var(--shell);
}

.chosen {
  background: var(--kelp-soft);
  box-shadow:
    -10px 0 0 var(--kelp-soft),
    10px 0 0 var(--kelp-soft);
}

.heading,
.link {
  grid-template-columns: 28px 1fr auto;
}

.heading {
  padding-top: 20px;
}

li.heading:first-child {
  padding-top: 4px;
}

.topic {
  font: 600 18px/1.3 var(--serif);
}

.below {
  display: block;
}

.link a {
  display: inline-block;
  min-height: 24px;
  overflow-wrap: anywhere;
}

.grip {
  min-width: 28px;
  min-height: 28px;
  border: 0;
  background: none;
  color: var(--ink-3);
  cursor: grab;
}

.chosen .grip {
  color: var(--kelp);
}

.elsewhere {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 16px;
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

.who.small {
  min-height: 26px;
  padding: 2px 0;
}

@media (max-width: 800px) {
  li {
    display: flex;
    flex-wrap: wrap;
  }
}
</style>
