<script setup lang="ts">
/** Where a lecture stands and where one goes in it: with its chapters, what one has of it, and what stands there. */
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { standing, type Along } from './along'
import HadLine from './HadLine.vue'
import { timecode } from './time'

const props = defineProps<{ at: number; length: number; along?: Along }>()
const emit = defineEmits<{ seek: [ms: number] }>()
const { t } = useI18n()
const line = ref<HTMLElement>()
/** Half of the thumb of a range: there its line begins. */
const inset = 8
/** Where one points at; undefined when nowhere. */
const pointed = ref<number>()
const shares = (ms: number) => Math.min(1, Math.max(0, ms / Math.max(1, props.length)))

function point(e: PointerEvent) {
  const box = line.value?.getBoundingClientRect()
  if (!box || !props.along) return
  pointed.value = Math.min(1, Math.max(0, (e.clientX - box.left - inset) / (box.width - 2 * inset))) * props.length
}
const chapter = computed(() => standing(props.along?.chapters ?? [], props.at)?.title)
const said = computed(() => {
  const at = t('player.at', { at: timecode(props.at), of: timecode(props.length) })
  return chapter.value ? `${at}, ${chapter.value}` : at
})
const there = computed(() => {
  const at = pointed.value
  if (at === undefined || !props.along) return undefined
  return {
    at,
    picture: standing(props.along.slides, at)?.picture,
    chapter: standing(props.along.chapters, at)?.title,
    // The box stays on the line at both of its ends.
    style: { left: `clamp(84px, calc(${inset}px + (100% - ${2 * inset}px) * ${shares(at)}), calc(100% - 84px))` },
  }
})
</script>

<template>
  <div ref="line" class="where" @pointermove="point" @pointerdown="point" @pointerleave="pointed = undefined">
    <input
      class="scrub"
      type="range"
      min="0"
      :max="Math.max(1, Math.round(length))"
      step="100"
      :value="Math.round(at)"
      :aria-label="t('player.place')"
      :aria-valuetext="said"
      @input="emit('seek', Number(($event.target as HTMLInputElement).value))"
    />
    <div v-if="along" class="along" aria-hidden="true">
      <HadLine :length="length" :attended="along.attended" :watched="along.watched" :missed="along.missed" />
      <i
        v-for="c in along.chapters.filter((x) => x.at > 0)"
        :key="c.at"
        class="tick"
        :style="{ left: `${shares(c.at) * 100}%` }"
      />
    </div>
    <div v-if="there" class="there" aria-hidden="true" :style="there.style">
      <img v-if="there.picture" :src="there.picture" alt="" />
      <b v-if="there.chapter">{{ there.chapter }}</b>
      <span class="mono">{{ timecode(there.at) }}</span>
    </div>
  </div>
</template>

<style scoped>
.where {
  position: relative;
  flex: 1 1 90px;
  min-width: 60px;
}

.scrub {
  display: block;
  width: 100%;
  height: 24px;
  margin: 0;
  accent-color: var(--kelp);
}

.along {
  position: relative;
  margin: -3px 8px 0;
}

.tick {
  position: absolute;
  top: 0;
  width: 1.5px;
  height: 14px;
  margin-left: -1px;
  background: var(--ink);
}

.there {
  position: absolute;
  bottom: 100%;
  z-index: 3;
  display: grid;
  width: 168px;
  padding: 4px;
  translate: -50%;
  border: 1px solid var(--edge);
  border-radius: 4px;
  background: var(--shell);
  font-size: 13px;
  line-height: 1.3;
  text-align: center;
  pointer-events: none;
}

.there img {
  width: 158px;
  height: 89px;
  object-fit: contain;
  background: var(--well);
}
</style>
