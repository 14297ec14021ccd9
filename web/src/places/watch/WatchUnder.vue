<script setup lang="ts">
/** Under what plays: its chapters, what is said of it, and where one can go from here. */
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'
import { standing } from '../../parts/along'
import { megabytes } from '../../parts/time'
import MomentRow from './MomentRow.vue'
import TakeList from './TakeList.vue'

const props = defineProps<{
  page: Schemas['Watch']
  at: number
  language: string
  /** There are words to print. */
  printed: boolean
  /** So much of it comes over the line, in bytes. */
  onLine: number
}>()
const emit = defineEmits<{ seek: [ms: number] }>()
const { t } = useI18n()
/** Which chapter plays now. */
const chapter = computed(() => standing(props.page.chapters, props.at))
</script>

<template>
  <section v-if="page.chapters.length > 1" class="chapters" :aria-label="t('watch.chapters')">
    <h2>{{ t('watch.chapters') }}</h2>
    <ol class="plain">
      <li v-for="c in page.chapters" :key="c.at">
        <MomentRow :at="c.at" :now="c === chapter" @seek="emit('seek', c.at)">{{ c.title }}</MomentRow>
      </li>
    </ol>
  </section>
  <p v-if="page.description" class="said">{{ page.description }}</p>
  <p class="ways">
    <router-link v-if="page.list" :to="{ name: 'linked', params: { opening: page.list.opening_id } }">{{
      t('link.back', { title: page.list.title })
    }}</router-link>
    <router-link v-if="page.next_recording" :to="{ name: 'watch', params: { recording: page.next_recording } }">{{
      t('watch.next', { title: page.next_title })
    }}</router-link>
    <TakeList :page="page" :language="language" :printed="printed" />
    <router-link v-if="page.as_staff" :to="{ name: 'trim-bench', params: { recording: page.id } }">{{
      t('watch.to_bench')
    }}</router-link>
    <span v-if="page.gain" class="soft small">{{
      t(page.gain.db < 0 ? 'watch.quieter' : 'watch.louder', {
        db: Math.abs(page.gain.db).toFixed(1),
      })
    }}</span>
    <span v-if="!page.live && onLine > 0" class="soft small">{{ t('watch.size', { mb: megabytes(onLine) }) }}</span>
  </p>
</template>

<style scoped>
.chapters {
  margin-top: 14px;
}

.chapters ol {
  columns: 2 260px;
  margin-top: 4px;
}

.said {
  max-width: 70ch;
  margin-top: 14px;
  white-space: pre-line;
}

.ways {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 22px;
  align-items: baseline;
  margin-top: 12px;
}
</style>
