<script setup lang="ts">
/** What is chosen on the board, and what can be done to all of it at once. */
import { defineAsyncComponent, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { chosenRecordings } from '../../api/lighting'
import FaultNote from '../../parts/FaultNote.vue'
import { useForm } from '../../parts/form'

const LightSheet = defineAsyncComponent(() => import('../common/LightSheet.vue'))
const props = defineProps<{ lectures: string[]; full: boolean; zone: string }>()
const emit = defineEmits<{ end: [] }>()
const { t } = useI18n()
const { busy, problem, send } = useForm()
/** Of what is chosen nothing is there yet that could be given. */
const none = ref(false)
watch(
  () => props.lectures,
  () => (none.value = false),
)
const recordings = ref<{ id: string; title: string }[]>([])

async function open() {
  const got = await send(() => chosenRecordings(props.lectures))
  none.value = got?.length === 0
  recordings.value = (got ?? []).map((r) => ({ id: r.recording_id, title: r.title }))
}
</script>

<template>
  <div class="chosen" role="region" :aria-label="t('board.chosen')">
    <span role="status">
      {{ t('board.chosen_n', { n: lectures.length }, lectures.length) }}
      <template v-if="full">{{ t('board.chosen_full', { n: lectures.length }) }}</template>
      <span v-if="lectures.length === 0" class="soft">{{ t('board.choose_how') }}</span>
    </span>
    <span v-if="none" role="alert">{{ t('board.chosen_none') }}</span>
    <FaultNote v-if="problem" :error="problem" />
    <el-button class="push" :disabled="busy || lectures.length === 0" type="primary" @click="open">
      {{ t('board.give') }}
    </el-button>
    <el-button @click="emit('end')">{{ t('board.choose_end') }}</el-button>
    <LightSheet v-if="recordings.length > 0" :recordings="recordings" course="" :zone="zone" @close="recordings = []" />
  </div>
</template>

<style scoped>
.chosen {
  position: sticky;
  z-index: 5;
  bottom: 0;
  display: flex;
  flex-wrap: wrap;
  gap: 8px 14px;
  align-items: center;
  margin-top: 10px;
  padding: 10px 16px;
  background: var(--shell);
  border: 1px solid var(--rule-strong);
  border-radius: 6px 6px 0 0;
}
</style>
