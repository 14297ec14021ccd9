<script setup lang="ts">
/** The words beside the picture: they follow, can be searched, and lead to their moment. */
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'
import { useFollows } from '../../parts/follows'
import { fold } from '../../parts/fold'
import MomentRow from './MomentRow.vue'

const props = defineProps<{ cues: Schemas['Cue'][]; at: number }>()
const emit = defineEmits<{ seek: [ms: number] }>()
const { t } = useI18n()
const find = ref('')

const shown = computed(() => {
  const word = fold(find.value.trim())
  return word ? props.cues.filter((c) => fold(c.text).includes(word)) : props.cues
})
const now = computed(() => props.cues.findLast((c) => c.start <= props.at + 100)?.start)

const list = ref<HTMLElement>()
useFollows(
  list,
  () => (now.value === undefined ? undefined : `[data-start="${now.value}"]`),
  () => find.value !== '',
)
</script>

<template>
  <aside :aria-label="t('watch.transcript')">
    <h2>{{ t('watch.transcript') }}</h2>
    <el-input v-model="find" type="search" :placeholder="t('watch.find')" :aria-label="t('watch.find')" clearable />
    <p v-if="find" class="soft small" role="status">{{ t('watch.found', { n: shown.length }, shown.length) }}</p>
    <ol ref="list" class="plain" tabindex="0" :aria-label="t('watch.transcript')">
      <li v-for="c in shown" :key="c.start" :data-start="c.start">
        <MomentRow :at="c.start" :now="c.start === now" @seek="emit('seek', c.start)"
          ><b v-if="c.speaker">{{ c.speaker }}: </b>{{ c.text }}</MomentRow
        >
      </li>
    </ol>
  </aside>
</template>

<style scoped>
aside {
  display: flex;
  flex-direction: column;
  gap: 8px;
  min-height: 0;
}

ol {
  position: relative;
  max-height: 58vh;
  overflow-y: auto;
  border: 1px solid var(--rule);
  border-radius: 4px;
  background: var(--shell);
}
</style>
