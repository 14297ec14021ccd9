<script setup lang="ts">
/** The plans of a course, each as its sentence. */
import { useQueryClient } from '@tanstack/vue-query'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'
import { removePlan } from '../../api/timetable'
import FaultNote from '../../parts/FaultNote.vue'
import { useForm } from '../../parts/form'
import { usePlanWords } from '../plan/words'

const props = defineProps<{ page: Schemas['CoursePage'] }>()
const emit = defineEmits<{ removed: [change: string] }>()
const { t } = useI18n()
const client = useQueryClient()
const words = usePlanWords()
const { busy, problem, send } = useForm()

async function remove(plan: string) {
  const done = await send(() => removePlan(props.page.id, plan))
  if (!done) return
  emit('removed', done.change)
  void client.invalidateQueries({ queryKey: ['course', props.page.id] })
}
</script>

<template>
  <div>
    <h2>{{ t('plan.name') }}</h2>
    <div class="page">
      <p v-if="page.plans.length === 0">{{ t('plan.none') }}</p>
      <ul v-else class="line-list">
        <li v-for="p in page.plans" :key="p.id">
          <span class="sentence">
            {{ words.sentence(p.plan, p.hall, p.last, p.by_dates, p.lectures) }}
            <span class="soft small">{{ words.rest(p.plan) }} {{ words.away(p.moved, p.called_off) }}</span>
          </span>
          <el-button link class="push" :disabled="busy" @click="remove(p.id)">{{ t('plan.remove') }}</el-button>
        </li>
      </ul>
      <FaultNote v-if="problem" :error="problem" />
      <p class="bar-of-acts">
        <el-button
          tag="router-link"
          :type="page.plans.length > 0 ? 'default' : 'primary'"
          :to="{ name: 'plan', params: { course: page.id } }"
          >{{ t('plan.more') }}</el-button
        >
        <router-link :to="{ name: 'timetable', params: { course: page.id } }">{{ t('plan.import') }}</router-link>
      </p>
    </div>
  </div>
</template>

<style scoped>
h2 {
  margin: 20px 0 6px;
}

.sentence {
  display: flex;
  flex: 1 1 0;
  flex-direction: column;
  font: 17px/1.5 var(--serif);
}

.sentence .small {
  font-family: var(--sans);
}

.bar-of-acts {
  margin: 10px 0 0;
}
</style>
