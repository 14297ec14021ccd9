<script setup lang="ts">
/** A weekly plan as a sentence whose parts can be changed in place. */
import { ref } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'
import FormSlot from '../../parts/FormSlot.vue'
import FormDay from '../../parts/FormDay.vue'
import FormText from '../../parts/FormText.vue'
import { usePlanWords } from './words'

const plan = defineModel<Schemas['PlanText']>({ required: true })
defineProps<{ halls: Schemas['HallLine'][]; term: Schemas['TermText']; faults: Record<string, string> }>()
const { t } = useI18n()
const { dayName } = usePlanWords()

type Plan = Schemas['PlanText']
const set = (what: Partial<Plan>) => Object.assign(plan.value, what)
const text = (e: Event) => (e.target as HTMLInputElement).value.trim()
const toggle = (day: number) => {
  const days = plan.value.weekdays
  set({ weekdays: days.includes(day) ? days.filter((d) => d !== day) : [...days, day].sort() })
}

/** How the end is said: so many times, or until a day. What was said the other way is kept for changing back. */
const byDay = ref(plan.value.until !== '')
const until = ref(plan.value.until)
function endBy(day: boolean) {
  byDay.value = day
  if (!day) until.value = plan.value.until
  set({ until: day ? until.value : '' })
}
</script>

<template>
  <div class="sentence-form" role="group" :aria-label="t('plan.group')">
    <FormSlot v-slot="{ described }" :label="t('plan.weekdays')" :fault="faults.weekdays" inline group>
      <span class="days" role="group" :aria-label="t('plan.weekdays')" :aria-describedby="described">
        <label v-for="d in 7" :key="d" :class="{ on: plan.weekdays.includes(d) }">
          <input type="checkbox" :checked="plan.weekdays.includes(d)" :aria-label="dayName(d)" @change="toggle(d)" />
          <span aria-hidden="true">{{ dayName(d, 'short') }}</span>
        </label>
      </span>
    </FormSlot>
    <FormSlot v-slot="{ id, invalid, described }" :label="t('plan.every')" :fault="faults.every" inline>
      <select
        :id="id"
        class="entry-select"
        :value="plan.every"
        :aria-invalid="invalid"
        :aria-describedby="described"
        @change="set({ every: Number(text($event)) })"
      >
        <option v-for="n in 4" :key="n" :value="n">{{ t('plan.every_week', { n }, n) }}</option>
      </select>
    </FormSlot>
    <span class="joins">,</span>
    <FormText
      :model-value="plan.starts"
      :label="t('plan.starts')"
      :fault="faults.starts"
      inline
      size="clock"
      placeholder="10:15"
      @update:model-value="set({ starts: String($event) })"
    />
    <span>{{ t('plan.to') }}</span>
    <FormText
      :model-value="plan.ends"
      :label="t('plan.ends')"
      :fault="faults.ends"
      inline
      size="clock"
      placeholder="11:45"
      @update:model-value="set({ ends: String($event) })"
    />
    <span>{{ t('plan.in') }}</span>
    <FormSlot v-slot="{ id, invalid, described }" :label="t('plan.hall')" :fault="faults.hall" inline>
      <select
        :id="id"
        class="entry-select"
        :value="plan.hall ?? ''"
        :aria-invalid="invalid"
        :aria-describedby="described"
        @change="set({ hall: text($event) || undefined })"
      >
        <option value="">{{ t('plan.no_hall') }}</option>
        <option v-for="h in halls" :key="h.id" :value="h.id">{{ h.name }}</option>
      </select>
    </FormSlot>
    <span class="joins">{{ t('plan.from') }}</span>
    <FormDay
      :model-value="plan.from"
      :label="t('plan.first')"
      :fault="faults.from"
      inline
      :min="term.first_day"
      :max="term.last_day"
      @update:model-value="set({ from: String($event) })"
    />
    <FormSlot v-slot="{ id }" :label="t('plan.end_how')" inline>
      <select :id="id" class="entry-select" :value="byDay ? 'day' : 'times'" @change="endBy(text($event) === 'day')">
        <option value="times">{{ t('plan.end_times') }}</option>
        <option value="day">{{ t('plan.end_day') }}</option>
      </select>
    </FormSlot>
    <FormDay
      v-if="byDay"
      key="until"
      :model-value="plan.until"
      :label="t('plan.until')"
      :fault="faults.until"
      inline
      :min="plan.from"
      :max="term.last_day"
      @update:model-value="set({ until: String($event) })"
    />
    <FormText
      v-else
      key="times"
      :model-value="plan.times"
      :label="t('plan.times')"
      :fault="faults.times ?? faults.until"
      inline
      type="number"
      size="number"
      min="1"
      max="400"
      @update:model-value="set({ times: Number($event) })"
    />
    <span v-if="!byDay">{{ t('plan.times_word', plan.times) }}</span>
    <FormSlot v-if="term.breaks.length > 0" v-slot="{ id }" :label="t('plan.breaks')" inline>
      <select
        :id="id"
        class="entry-select"
        :value="plan.over_breaks ? 'over' : 'not'"
        @change="set({ over_breaks: text($event) === 'over' })"
      >
        <option value="not">{{ t('plan.not_in', { breaks: term.breaks.map((b) => b.name).join(', ') }) }}</option>
        <option value="over">{{ t('plan.over_breaks') }}</option>
      </select>
    </FormSlot>
  </div>
</template>

<style scoped>
.days {
  display: inline-flex;
  border: 1px solid var(--edge);
  border-radius: 4px;
  overflow: hidden;
}

.days label {
  position: relative;
  min-width: 46px;
  padding: 6px 8px;
  border-inline-start: 1px solid var(--rule);
  background: var(--shell);
  color: var(--ink-2);
  font: 15px/1.6 var(--sans);
  text-align: center;
  cursor: pointer;
}

.days label:first-child {
  border-inline-start: 0;
}

.days label.on {
  background: var(--ink);
  color: var(--shell);
  font-weight: 700;
}

.days input {
  position: absolute;
  inset: 0;
  margin: 0;
  opacity: 0;
  cursor: pointer;
}

.days label:focus-within {
  outline: 2px solid var(--kelp);
  outline-offset: -2px;
}
</style>
