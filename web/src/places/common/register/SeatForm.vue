<script setup lang="ts">
/** How a student stands in the register, said by hand. */
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { markSeat, unmarkSeat, type RegisterLine } from '../../../api/register'
import FaultNote from '../../../parts/FaultNote.vue'
import { useForm } from '../../../parts/form'

const props = defineProps<{ lecture: string; line: RegisterLine }>()
const emit = defineEmits<{ kept: [text: string] }>()
const { t } = useI18n()
const states = ['present', 'late', 'left_early', 'late_left_early', 'absent', 'excused'] as const
type State = (typeof states)[number]
const state = ref<State>((props.line.state || 'present') as State)
const late = ref(props.line.late_min)
const early = ref(props.line.early_min)
const reason = ref(props.line.mark?.reason ?? '')
const hasLate = computed(() => state.value === 'late' || state.value === 'late_left_early')
const hasEarly = computed(() => state.value === 'left_early' || state.value === 'late_left_early')
const form = useForm()

async function keep() {
  const done = await form.send(() =>
    markSeat(props.lecture, props.line.person, {
      state: state.value,
      late_min: hasLate.value ? (late.value ?? 0) : 0,
      early_min: hasEarly.value ? (early.value ?? 0) : 0,
      reason: reason.value,
    }),
  )
  if (done) emit('kept', t('register.kept', { name: props.line.name, state: t(`register.state.${state.value}`) }))
}

async function back() {
  const done = await form.send(() => unmarkSeat(props.lecture, props.line.person))
  if (done) emit('kept', t('register.taken_back', { name: props.line.name }))
}
</script>

<template>
  <form class="seat" @submit.prevent="keep">
    <el-radio-group v-model="state" :aria-label="t('register.how', { name: line.name })">
      <el-radio v-for="s in states" :key="s" :value="s">{{ t(`register.state.${s}`) }}</el-radio>
    </el-radio-group>
    <div class="bar-of-acts">
      <label v-if="hasLate" class="small"
        >{{ t('register.late_field') }} <el-input-number v-model="late" size="small" :min="0" :max="720" :precision="0"
      /></label>
      <label v-if="hasEarly" class="small"
        >{{ t('register.early_field') }}
        <el-input-number v-model="early" size="small" :min="0" :max="720" :precision="0"
      /></label>
      <el-input
        v-model="reason"
        class="reason"
        :maxlength="400"
        :placeholder="t('register.reason')"
        :aria-label="t('register.reason')"
      />
      <el-button native-type="submit" type="primary" :disabled="form.busy.value">{{ t('register.keep') }}</el-button>
      <el-button v-if="line.mark" link :disabled="form.busy.value" @click="back">{{
        t('register.as_reckoned')
      }}</el-button>
    </div>
    <FaultNote v-if="form.problem.value" :error="form.problem.value" />
  </form>
</template>

<style scoped>
.seat {
  display: grid;
  gap: 6px;
  padding: 8px 12px;
  background: var(--fog);
}

.el-radio-group {
  gap: 2px 18px;
}

.reason {
  flex: 1;
  min-width: 180px;
}
</style>
