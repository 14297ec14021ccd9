<script setup lang="ts">
/** The words beside the picture: they follow, can be searched, and lead to their moment. */
import { computed, defineAsyncComponent, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'
import type { Reading } from '../../api/proposed'
import { useFollows } from '../../parts/follows'
import UnsureText from '../../parts/UnsureText.vue'
import { fold } from '../../parts/fold'
import MomentRow from './MomentRow.vue'

const ProposeLine = defineAsyncComponent(() => import('./ProposeLine.vue'))
const props = defineProps<{
  cues: Schemas['Cue'][]
  at: number
  /** What is read, for those who may propose what lines should say. */
  of?: Reading
}>()
const emit = defineEmits<{ seek: [ms: number] }>()
const { t } = useI18n()
const find = ref('')

const shown = computed(() => {
  const word = fold(find.value.trim())
  return word ? props.cues.filter((c) => fold(c.text).includes(word)) : props.cues
})
const doubtful = computed(() => props.cues.some((c) => c.unsure?.length))
const line = computed(() => props.cues.findLast((c) => c.start <= props.at + 100))
const now = computed(() => line.value?.start)

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
          ><b v-if="c.speaker">{{ c.speaker }}: </b><UnsureText :text="c.text" :unsure="c.unsure"
        /></MomentRow>
      </li>
    </ol>
    <p v-if="doubtful" class="soft small">{{ t('watch.unsure') }}</p>
    <ProposeLine v-if="of" :of="of" :line="line ?? cues[0]" />
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

@media print {
  ol {
    max-height: none;
    overflow: visible;
    border: none;
  }

  .el-input,
  .propose,
  h2 {
    display: none;
  }
}
</style>
