<script setup lang="ts">
/**
 * The press that ends a class for everyone, the seconds in which that can be taken back, and what it came to. Whoever
 * captures is told when it is due, and stops by itself.
 */
import { computed, onScopeDispose, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { useClassEnd, useDoorway } from '../../api/timetable'
import { collegeNow } from '../../parts/clock'
import FaultNote from '../../parts/FaultNote.vue'
import { clockText } from '../../parts/time'

const props = defineProps<{
  lecture: string
  zone: string
  /** Whether there is a class to end. */
  on: boolean
  /** Whether its capture still comes in. */
  running: boolean
  recording?: string
}>()
const emit = defineEmits<{ due: [] }>()
const { t } = useI18n()
const door = useDoorway(() => props.lecture)
const change = useClassEnd(() => props.lecture)
const ending = computed(() => door.data.value?.ending)
/** Milliseconds until it ends; 0 once it has. */
const left = ref(0)
let told = ''
/** What was ended before does not stop what begins now. */
const since = collegeNow()

function look() {
  const x = ending.value
  if (!x) return
  left.value = Math.max(0, Date.parse(x.due_at) - collegeNow())
  if (left.value > 0 || told === x.due_at) return
  told = x.due_at
  if (Date.parse(x.due_at) >= since) emit('due')
  if (!x.over) void door.refetch()
}

watch(ending, look, { immediate: true })
const timer = window.setInterval(look, 200)
onScopeDispose(() => window.clearInterval(timer))
const seconds = computed(() => Math.ceil(left.value / 1000))
const over = computed(() => {
  const x = ending.value
  if (!x || left.value > 0) return ''
  const at = clockText(x.due_at, props.zone)
  return x.by ? t('class_end.over_by', { who: x.by, at }) : t('class_end.over', { at })
})
</script>

<template>
  <div v-if="on || ending" class="end-class" :class="{ wide: ending }">
    <el-button
      v-if="!ending"
      :disabled="change.isPending.value || !door.data.value"
      :title="t('class_end.help')"
      @click="change.mutate(false)"
      >{{ t('class_end.press') }}</el-button
    >
    <div v-else-if="left > 0" class="ends" role="alertdialog" :aria-label="t('class_end.press')">
      <p class="tally" role="timer">
        <b>{{ t('class_end.in', { n: seconds }, seconds) }}</b>
      </p>
      <p class="small">{{ t('class_end.what') }}</p>
      <el-button :disabled="change.isPending.value" @click="change.mutate(true)">{{ t('class_end.back') }}</el-button>
    </div>
    <div v-else class="ends" role="status">
      <p>
        <b>{{ over }}</b>
        <template v-if="running"> {{ t('class_end.runs') }}</template>
      </p>
      <span class="bar-of-acts">
        <el-button
          v-if="recording && !running"
          tag="router-link"
          type="primary"
          :to="{ name: 'trim-bench', params: { recording } }"
          >{{ t('class_end.to_recording') }}</el-button
        >
        <el-button :disabled="change.isPending.value" @click="change.mutate(true)">{{
          t('class_end.reopen')
        }}</el-button>
      </span>
    </div>
    <FaultNote v-if="change.error.value" :error="change.error.value" />
  </div>
</template>

<style scoped>
.wide {
  flex-basis: 100%;
  margin-top: 6px;
}

.ends {
  padding: 10px 14px;
  border-inline-start: 5px solid var(--tally);
  background: var(--paper);
}

.ends[role='status'] {
  border-color: var(--kelp);
  background: var(--kelp-soft);
}

.ends p {
  margin: 0 0 6px;
}
</style>
