<script setup lang="ts">
/** A playlist whose link one came by: what of it can be watched, and nothing else. */
import { computed, watchEffect } from 'vue'
import { useI18n } from 'vue-i18n'
import { Problem } from '../../api/client'
import { useLinked } from '../../api/openings'
import FaultNote from '../../parts/FaultNote.vue'
import { dateText, timecode } from '../../parts/time'
import { nameTab } from '../../router'

const props = defineProps<{ opening: string }>()
const { t } = useI18n()
const page = useLinked(() => props.opening)
/** It was open, and is no longer. */
const closed = computed(() => page.error.value instanceof Problem && [401, 403, 404].includes(page.error.value.status))
watchEffect(() => nameTab(page.data.value?.title ?? t('link.title')))
</script>

<template>
  <FaultNote
    v-if="page.error.value && (closed || !page.data.value)"
    :error="page.error.value"
    again
    @again="page.refetch()"
  />
  <section v-else-if="page.data.value" class="linked">
    <h1>{{ page.data.value.title }}</h1>
    <p v-if="page.data.value.about">{{ page.data.value.about }}</p>
    <ol class="plain">
      <template v-for="(e, n) in page.data.value.entries" :key="e.recording_id ?? `l${n}`">
        <li v-if="e.heading" class="heading">
          {{ e.heading }} <span v-if="e.about" class="below">{{ e.about }}</span>
        </li>
        <li v-else-if="e.address">
          <a :href="e.address" target="_blank" rel="noopener noreferrer">{{ e.title }}</a>
        </li>
        <li v-else>
          <img v-if="e.picture" class="picture" :src="e.picture" alt="" loading="lazy" />
          <span v-else class="picture" />
          <span class="what">
            <span>
              <router-link :to="{ name: 'watch', params: { recording: e.recording_id } }">{{ e.title }}</router-link>
              <span v-if="e.parts" class="small"> {{ t('playlist.part', { part: e.part, of: e.parts }) }}</span>
            </span>
            <span class="soft small">
              <template v-if="e.starts_at">{{ dateText(e.starts_at, page.data.value.zone) }} · </template>
              <span class="mono">{{ timecode(e.length_ms) }}</span>
            </span>
          </span>
        </li>
      </template>
    </ol>
  </section>
</template>

<style scoped>
.linked {
  max-width: 760px;
}

h1 {
  margin-bottom: 6px;
}

li {
  display: flex;
  gap: 16px;
  align-items: center;
  padding: 10px 0;
  border-bottom: 1px solid var(--rule);
}

.heading {
  display: block;
  padding-top: 22px;
  font: 600 17px/1.3 var(--serif);
}

.below {
  display: block;
  font: 400 14px var(--sans);
}

.picture {
  flex: none;
  width: 112px;
  aspect-ratio: 16 / 9;
  object-fit: cover;
}

img.picture {
  border: 1px solid var(--rule);
}

.what {
  display: grid;
  gap: 2px;
}

.what a {
  font-size: 17px;
}

@media (max-width: 700px) {
  .picture {
    width: 84px;
  }
}
</style>
