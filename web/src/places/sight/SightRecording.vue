<script setup lang="ts">
/** One recording as someone else finds it: it plays, with what they may do; or its closed door. */
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Use } from '../../api/rules'
import { useSightOf, type Eyes } from '../../api/sight'
import { say } from '../../messages/said'
import FaultNote from '../../parts/FaultNote.vue'
import LanternSign from '../../parts/LanternSign.vue'
import LecturePlayer from '../../parts/LecturePlayer.vue'
import { useRightWords } from '../common/ruleWords'

const props = defineProps<{ course: string; recording: string; eyes: Eyes }>()
const { t, te } = useI18n()
const found = useSightOf(
  () => props.course,
  () => props.recording,
  () => props.eyes,
)
const help = computed(() => {
  const key = `door_help.${found.data.value?.door?.code.replace(/^door\./, '') ?? ''}`
  return te(key) ? t(key) : ''
})
const words = useRightWords('UTC') // no day is said
const uses = computed(() => words.all((found.data.value?.uses ?? []) as Use[]))
</script>

<template>
  <FaultNote v-if="found.error.value && !found.data.value" :error="found.error.value" again @again="found.refetch()" />
  <section v-if="found.data.value?.door" class="door">
    <LanternSign state="dark" mute :size="44" />
    <div>
      <h2>{{ t('door.title') }}</h2>
      <p>{{ say(found.data.value.door) }}</p>
      <p v-if="help" class="soft">{{ help }}</p>
    </div>
  </section>
  <article v-else-if="found.data.value?.watch">
    <h2>{{ found.data.value.watch.title }}</h2>
    <p v-if="found.data.value.watch.description">{{ found.data.value.watch.description }}</p>
    <LecturePlayer
      :media="found.data.value.watch.media"
      :edition="found.data.value.watch.edition"
      :pictures="found.data.value.watch.video"
      :second="found.data.value.watch.second_video"
      :sizes="{
        whole: found.data.value.watch.bytes,
        small: found.data.value.watch.small_bytes,
        sound: found.data.value.watch.audio_bytes,
      }"
      :from="0"
      :led="found.data.value.watch.led"
      :label="found.data.value.watch.title"
      caption=""
    />
    <p>{{ t('sight.may', { uses }) }}</p>
  </article>
</template>

<style scoped>
.door {
  display: flex;
  gap: 22px;
}
</style>
