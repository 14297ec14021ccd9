<script setup lang="ts">
/** A playlist in a frame of another site: its lines, and the one of them that plays. */
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { useOneList } from '../../api/embed'
import { handoutAt } from '../../api/handouts'
import { dayAndClock, timecode } from '../../parts/time'
import FrameDoor from './FrameDoor.vue'
import FramePlayer from './FramePlayer.vue'

const props = defineProps<{ course: string; list: string }>()
const { t } = useI18n()
const page = useOneList(
  () => props.course,
  () => (props.list === 'main' ? undefined : props.list),
)
const it = computed(() => page.data.value)
const address = computed(() => `/catch-up?${new URLSearchParams({ course: props.course, list: props.list })}`)
const playing = ref('')
</script>

<template>
  <main class="framed">
    <FrameDoor v-if="!it && page.error.value" :error="page.error.value" :address="address" @again="page.refetch()" />
    <template v-else-if="it">
      <FramePlayer v-if="playing" :key="playing" class="plays" :recording="playing" />
      <section class="lines">
        <header>
          <h1>{{ it.list.title || `${it.course.code} ${it.course.title}` }}</h1>
          <a :href="address" target="_blank" rel="noopener">{{ t('embed.open') }}</a>
        </header>
        <p v-if="it.list.about">{{ it.list.about }}</p>
        <p v-if="it.list.entries.length === 0" class="soft">{{ t('catch_up.empty') }}</p>
        <ol class="plain">
          <li v-for="(e, n) in it.list.entries" :key="e.recording_id ?? `l${n}`" :class="{ heading: e.heading }">
            <template v-if="e.heading">{{ e.heading }}</template>
            <a v-else-if="e.address" :href="e.address" target="_blank" rel="noopener noreferrer">{{ e.title }}</a>
            <a v-else-if="e.file" :href="handoutAt(course, e.file.id)" target="_blank" download>{{ e.title }}</a>
            <template v-else-if="e.open">
              <el-button link :aria-pressed="playing === e.recording_id" @click="playing = e.recording_id!">{{
                e.title
              }}</el-button>
              <span class="mono soft">{{ timecode(e.length_ms) }}</span>
            </template>
            <span v-else class="soft"
              >{{ e.title }} ·
              {{ e.opens ? t('door.not_yet_at', { at: dayAndClock(e.opens, it.zone) }) : t(`door.${e.reason}`) }}</span
            >
          </li>
        </ol>
      </section>
    </template>
  </main>
</template>

<style scoped>
main.framed {
  padding: 0;
}

/* What comes next is seen below what plays. */
.plays {
  height: calc(100vh - 84px);
  min-height: 240px;
}

.lines {
  padding: 8px 14px;
  background: var(--shell);
}

header,
li {
  display: flex;
  gap: 4px 16px;
  align-items: center;
  justify-content: space-between;
}

h1 {
  margin: 0;
  font-size: 17px;
}

li {
  min-height: 36px;
  border-bottom: 1px solid var(--rule);
}

.heading {
  padding-top: 10px;
  font: 600 15px var(--serif);
}
</style>
