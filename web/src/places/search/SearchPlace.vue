<script setup lang="ts">
/** Moments at which something is said or shown, of all that one can watch: each leads to where it is. */
import { keepPreviousData } from '@tanstack/vue-query'
import { useDebounceFn } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute, useRouter } from 'vue-router'
import { useSearch } from '../../api/find'
import FaultNote from '../../parts/FaultNote.vue'
import { dateText, timecode } from '../../parts/time'
import { nameTab } from '../../router'

const { t } = useI18n()
const route = useRoute()
const router = useRouter()
const asked = computed(() => String(route.query.words ?? ''))
const words = ref(asked.value)
const hits = useSearch(asked, { placeholderData: keepPreviousData })
/** What is typed stands in the address, so that one can come back to what was found. */
const look = useDebounceFn((text: string) => {
  if (text.trim() !== asked.value) void router.replace({ query: { words: text.trim() } })
}, 250)
watch(words, (text) => void look(text))
watch(asked, (text) => {
  if (text !== words.value.trim()) words.value = text
})
const said = computed(() => {
  const found = hits.data.value?.found
  if (asked.value.length < 2 || !found) return t('search.hint')
  if (found.length === 0) return t('search.nothing')
  return t('search.found', { n: found.length }, found.length)
})
nameTab(t('search.title'))
</script>

<template>
  <section>
    <h1>{{ t('search.title') }}</h1>
    <el-input
      v-model="words"
      type="search"
      size="large"
      clearable
      autofocus
      :aria-label="t('search.words')"
      :placeholder="t('search.words')"
    />
    <p class="soft" role="status">{{ said }}</p>
    <FaultNote v-if="hits.error.value" :error="hits.error.value" again @again="hits.refetch()" />
    <ol v-if="asked.length > 1 && hits.data.value" class="plain">
      <li v-for="g in hits.data.value.found" :key="g.recording_id" class="page group">
        <h2>
          <router-link :to="{ name: 'watch', params: { recording: g.recording_id } }">{{ g.title }}</router-link>
          <span class="soft small">
            {{ [g.course, g.starts_at ? dateText(g.starts_at, hits.data.value.zone) : ''].filter(Boolean).join(' · ') }}
          </span>
        </h2>
        <ol class="plain">
          <li v-for="(h, n) in g.hits" :key="n">
            <router-link
              :to="{ name: 'watch', params: { recording: g.recording_id }, query: { at: h.at } }"
              class="hit"
            >
              <img v-if="h.picture" :src="h.picture" alt="" loading="lazy" />
              <span v-else />
              <span class="mono">{{ timecode(h.at) }}</span>
              <span class="text">
                <template v-for="(p, i) in h.pieces" :key="i"
                  ><mark v-if="p.hit">{{ p.text }}</mark
                  ><template v-else>{{ p.text }}</template></template
                >
                <span v-if="h.place !== 'said'" class="soft small where">{{ t(`search.${h.place}`) }}</span>
              </span>
            </router-link>
          </li>
        </ol>
        <p v-if="g.others > 0" class="soft small">{{ t('search.others', { n: g.others }, g.others) }}</p>
      </li>
    </ol>
    <p v-if="hits.data.value?.more" class="soft">{{ t('search.more') }}</p>
  </section>
</template>

<style scoped>
section {
  max-width: 900px;
}

.group {
  margin-bottom: 14px;
}

h2 {
  display: flex;
  flex-wrap: wrap;
  gap: 0 12px;
  align-items: baseline;
  margin-bottom: 4px;
}

p {
  margin: 8px 0 10px;
}

h2 .small {
  font: 15px/1.4 var(--sans);
}

h2 a {
  display: inline-block;
  min-height: 28px;
}

.hit {
  display: grid;
  grid-template-columns: 72px 52px minmax(0, 1fr);
  gap: 0 14px;
  align-items: center;
  padding: 6px 0;
  border-bottom: 1px solid var(--rule);
  color: var(--ink);
  text-decoration: none;
}

.hit:hover .text {
  text-decoration: underline;
}

img {
  width: 72px;
  height: 41px;
  object-fit: cover;
  border: 1px solid var(--rule-strong);
  border-radius: 2px;
}

mark {
  background: none;
  color: inherit;
  font-weight: 700;
  text-decoration: underline 2px var(--kelp);
  text-underline-offset: 3px;
}

.where {
  display: block;
}
</style>
