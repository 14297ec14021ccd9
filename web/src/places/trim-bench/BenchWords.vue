<script setup lang="ts">
/** Which captions there are, what they are, and the way to them. */
import { useI18n } from 'vue-i18n'
import { useCaptions, useChapters } from '../../api/captions'
import type { Schemas } from '../../api/client'

const props = defineProps<{ recording: string }>()
const emit = defineEmits<{ chapters: [] }>()
const { t } = useI18n()
const all = useCaptions(() => props.recording)
const chapters = useChapters(() => props.recording)

function state(c: Schemas['CaptionsInfo']): string {
  if (c.state === 'failed') return t('bench_words.failed')
  if (c.state === 'waiting') return t('bench_words.waiting')
  if (c.state === 'making') return t('bench_words.making', { n: c.share })
  if (c.draft && !c.shown) return t('bench_words.draft')
  return c.shown ? t('bench_words.shown') : t('bench_words.hidden')
}
</script>

<template>
  <p v-if="all.data.value" class="small">
    <span class="soft">{{ t('bench_words.name') }}:</span>
    <template v-if="all.data.value.captions.length === 0"> {{ t('bench_words.none') }}</template>
    <template v-for="(c, n) in all.data.value.captions" :key="c.language">
      {{ n > 0 ? ',' : '' }} <span class="mono">{{ c.language }}</span> {{ state(c)
      }}<b v-if="c.proposals > 0">, {{ t('proposed.title', { n: c.proposals }, c.proposals) }}</b></template
    >
    ·
    <router-link :to="{ name: 'captions', params: { recording } }">{{ t('bench_words.open') }}</router-link>
  </p>
  <p v-if="chapters.data.value" class="small">
    <span class="soft">{{ t('chapters.name') }}:</span>
    {{
      chapters.data.value.chapters.length === 0
        ? t(chapters.data.value.unread ? 'chapters.reading' : 'chapters.none')
        : t(chapters.data.value.by_hand ? 'chapters.by_hand' : 'chapters.proposed', {
            n: chapters.data.value.chapters.length,
          })
    }}
    ·
    <el-button link @click="emit('chapters')">{{ t('chapters.change') }}</el-button>
  </p>
</template>
