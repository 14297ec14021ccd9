<script setup lang="ts">
/** What is chosen in the table, and what can be done to all of it at once. */
import { useQueryClient } from '@tanstack/vue-query'
import { useElementSize } from '@vueuse/core'
import { computed, defineAsyncComponent, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { setBinned, type Course } from '../../api/all'
import { rearranged } from '../../api/bench'
import FaultNote from '../../parts/FaultNote.vue'
import UndoLine from '../../parts/UndoLine.vue'
import { useForm } from '../../parts/form'
import { most, type Chosen } from './chosen'

const LightSheet = defineAsyncComponent(() => import('../common/LightSheet.vue'))
const GiveTitles = defineAsyncComponent(() => import('./GiveTitles.vue'))
const IntoPlaylist = defineAsyncComponent(() => import('./IntoPlaylist.vue'))
const props = defineProps<{ chosen: Chosen; courses: Course[]; zone: string }>()
const emit = defineEmits<{ height: [height: number] }>()
const { t } = useI18n()
const client = useQueryClient()
const { busy, problem, act } = useForm()
const bar = ref<HTMLElement>()
const { height } = useElementSize(bar, undefined, { box: 'border-box' })
watch(height, (h) => emit('height', h))
const open = ref<'' | 'light' | 'titles' | 'playlist'>('')
/** What was put into the bin last. */
const binned = ref<string[]>()
const list = computed(() => props.chosen.list.value)

async function bin() {
  const ids = list.value.map((r) => r.recording_id)
  if (!(await act(() => setBinned(ids, true)))) return
  binned.value = ids
  props.chosen.none()
  rearranged(client)
}

async function back() {
  await setBinned(binned.value!, false)
  rearranged(client)
}
</script>

<template>
  <div ref="bar" class="chosen" role="region" :aria-label="t('all.chosen')">
    <template v-if="list.length > 0">
      <span role="status">
        {{ t('all.chosen_n', { n: list.length }, list.length) }}
        <template v-if="chosen.full.value">{{ t('all.full', { n: most }) }}</template>
        <template v-if="chosen.hidden.value > 0">{{
          t('all.hidden', { n: chosen.hidden.value }, chosen.hidden.value)
        }}</template>
      </span>
      <FaultNote v-if="problem" :error="problem" />
      <el-button class="push" type="primary" @click="open = 'light'">{{ t('all.light_them') }}</el-button>
      <el-button @click="open = 'titles'">{{ t('all.title_them') }}</el-button>
      <el-button @click="open = 'playlist'">{{ t('all.list_them') }}</el-button>
      <el-button :disabled="busy" @click="bin">{{ t('all.bin_them') }}</el-button>
      <el-button link @click="chosen.none">{{ t('all.choose_none') }}</el-button>
    </template>
    <UndoLine
      v-else-if="binned"
      :key="binned.join()"
      class="done"
      :text="t('all.binned', { n: binned.length }, binned.length)"
      :undo="back"
    />
  </div>
  <LightSheet
    v-if="open === 'light'"
    :recordings="list.map((r) => ({ id: r.recording_id, title: r.title }))"
    course=""
    :zone="zone"
    @close="open = ''"
  />
  <GiveTitles v-else-if="open === 'titles'" :recordings="list" @close="open = ''" />
  <IntoPlaylist
    v-else-if="open === 'playlist'"
    :recordings="list"
    :from="courses[list[0]?.course ?? -1]?.id ?? ''"
    @close="open = ''"
  />
</template>

<style scoped>
.chosen {
  position: sticky;
  z-index: 5;
  bottom: 0;
  display: flex;
  flex-wrap: wrap;
  gap: 8px 10px;
  align-items: center;
  background: var(--shell);
}

.chosen:not(:empty) {
  padding: 8px 16px;
  border: 1px solid var(--rule-strong);
  border-radius: 6px 6px 0 0;
}

.done {
  flex: 1;
  margin: 0;
}
</style>
