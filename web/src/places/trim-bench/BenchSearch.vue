<script setup lang="ts">
/** Finding words in what is said and in what stands on slides; each hit is marked on the strip page. */
import { refDebounced } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { useHits } from '../../api/captions'
import type { Schemas } from '../../api/client'
import { timecode } from '../../parts/time'

const props = defineProps<{ recording: string }>()
const emit = defineEmits<{ hits: [list: Schemas['Hit'][]]; go: [hit: Schemas['Hit']] }>()
const { t } = useI18n()
const text = ref('')
const query = refDebounced(
  computed(() => text.value.trim()),
  200,
)
const found = useHits(() => props.recording, query)
const hits = computed(() => (query.value ? (found.data.value ?? []) : []))
const sure = computed(() => hits.value.filter((h) => h.where !== 'perhaps').length)
const current = ref(-1)
const box = ref<HTMLInputElement>()

/** Which way someone pressed to go before what they wrote was found. */
let wanted: 1 | -1 | undefined
/** What was written last has been looked for. */
const settled = () => text.value.trim() === query.value && !found.isPending.value

watch(hits, (list) => {
  current.value = -1
  emit('hits', list)
  if (!wanted || !settled()) return
  const by = wanted
  wanted = undefined
  go(by)
})

function go(by: 1 | -1) {
  if (!settled()) {
    wanted = text.value.trim() ? by : undefined
    return
  }
  const n = hits.value.length
  if (n === 0) return
  current.value = (current.value + by + n) % n
  emit('go', hits.value[current.value]!)
}

const said = computed(() => {
  const h = hits.value[current.value]
  if (!h) return ''
  const text = h.share ? t('search_bench.share', { text: h.text, n: h.share }) : h.text
  return `${t(`search_bench.${h.where}`)} ${timecode(h.start)}: ${text}`
})
defineExpose({ focus: () => box.value?.focus() })
</script>

<template>
  <form class="search small" role="search" @submit.prevent="go(1)">
    <el-input
      ref="box"
      v-model="text"
      class="compact"
      type="search"
      maxlength="100"
      :placeholder="t('search_bench.label')"
      :aria-label="t('search_bench.label')"
      @keydown.up.prevent="go(-1)"
      @keydown.down.prevent="go(1)"
    />
    <span v-if="query && found.data.value" role="status" class="soft">
      {{ t('search_bench.found', { n: sure }, sure)
      }}<template v-if="hits.length > sure">, {{ t('search_bench.may', { n: hits.length - sure }) }}</template>
    </span>
    <span v-if="said" class="said">{{ said }}</span>
  </form>
</template>

<style scoped>
.search {
  display: flex;
  gap: 6px 12px;
  align-items: center;
  min-width: 0;
  margin: 8px 0;
}

.el-input {
  width: 230px;
}

.said {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
</style>
