/** Captions as one reads them: in which language, and whether, how large and where they stand on the picture. */
import { useStorage } from '@vueuse/core'
import { computed, ref } from 'vue'
import type { Schemas } from '../../api/client'
import { useWatchCaptions } from '../../api/captions'
import { captionPlaces, captionSizes, type CaptionPlace, type CaptionSize } from '../../parts/OnScreen.vue'

/** kept is one of some, remembered in this browser; what is none of them is the usual one. */
function kept<V extends string>(name: string, of: readonly V[], usual: V) {
  const stored = useStorage<V>(name, usual)
  return computed({ get: () => (of.includes(stored.value) ? stored.value : usual), set: (v) => (stored.value = v) })
}

export function useCaptioning(recording: () => string, page: () => Schemas['Watch'] | undefined, at: () => number) {
  /** '' for the language of the course. */
  const language = ref('')
  const translated = useWatchCaptions(recording, language)
  const cues = computed(() => (language.value && translated.data.value?.cues) || (page()?.cues ?? []))
  const onPicture = useStorage('late-lantern-captions', false)
  const size = kept<CaptionSize>('late-lantern-caption-size', captionSizes, 'middle')
  const place = kept<CaptionPlace>('late-lantern-caption-place', captionPlaces, 'below')
  const caption = computed(() => {
    if (!onPicture.value) return ''
    const c = cues.value.find((x) => x.start <= at() && at() < x.end)
    return c ? (c.speaker ? `${c.speaker}: ${c.text}` : c.text) : ''
  })
  return { language, cues, onPicture, size, place, caption }
}
