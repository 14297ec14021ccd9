<script setup lang="ts">
/** What is lit, darkened or ruled at an hour that is set, and what could not be; a press takes it back. */
import { useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'
import { undoLighting, usePlanned } from '../../api/lighting'
import { say } from '../../messages/said'
import FaultNote from '../../parts/FaultNote.vue'
import { useForm } from '../../parts/form'
import { dayAndClock } from '../../parts/time'
import { locale } from '../../parts/reader'

type Step = Schemas['PlannedStep']
const props = defineProps<{ zone: string; /** Only those of any of these; of all without. */ of?: string[] }>()
const { t } = useI18n()
const client = useQueryClient()
const planned = usePlanned()
const { busy, problem, act } = useForm()
const back = ref('')
const steps = computed(() =>
  (planned.data.value?.steps ?? []).filter((s) => !props.of || s.recordings.some((r) => props.of!.includes(r))),
)

function words(s: Step): string {
  const n = s.recordings.length
  const what = s.lit === undefined ? 'rule' : s.lit ? 'light' : 'darken'
  const values = { n, title: s.first, courses: new Intl.ListFormat(locale).format(s.courses) }
  return t(`lighting.planned_${what}`, values, n)
}

async function takeBack(s: Step) {
  if (!(await act(() => undoLighting(s.step)))) return
  back.value = s.gave_up ? '' : t('lighting.planned_back', { at: dayAndClock(s.at, props.zone) })
  void client.invalidateQueries({ queryKey: ['planned'] })
}
</script>

<template>
  <div v-if="steps.length > 0 || back" class="planned" role="group" :aria-label="t('lighting.planned')">
    <strong v-if="steps.length > 0" class="name">{{ t('lighting.planned') }}</strong>
    <ul class="plain">
      <li v-for="s in steps" :key="s.step">
        <span class="at">{{ dayAndClock(s.at, zone) }}</span>
        <span>
          {{ words(s) }}<template v-if="s.tell">, {{ t('lighting.planned_tell') }}</template>
          <span v-if="s.by" class="soft small by">{{ t('lighting.planned_by', { name: s.by }) }}</span>
          <strong v-if="s.gave_up" class="small by">{{
            t('lighting.planned_failed', { why: say({ code: s.gave_up }) })
          }}</strong>
        </span>
        <el-button
          v-if="s.mine"
          link
          :disabled="busy"
          :aria-label="`${t(s.gave_up ? 'lighting.planned_seen' : 'lighting.planned_undo')}: ${words(s)}`"
          @click="takeBack(s)"
          >{{ t(s.gave_up ? 'lighting.planned_seen' : 'lighting.planned_undo') }}</el-button
        >
      </li>
    </ul>
    <p v-if="back" role="status">{{ back }}</p>
    <FaultNote v-if="problem" :error="problem" />
  </div>
</template>

<style scoped>
.planned {
  margin: 12px 0;
}

.name {
  display: block;
  margin-bottom: 4px;
}

li {
  display: flex;
  gap: 16px;
  align-items: baseline;
  padding: 6px 0;
  border-top: 1px solid var(--rule);
}

li > .el-button {
  margin-inline-start: auto;
}

.at {
  flex: 0 0 auto;
  font-weight: 600;
}

.by {
  display: block;
}
</style>
