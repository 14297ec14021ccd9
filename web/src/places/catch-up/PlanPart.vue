<script setup lang="ts">
/** What fits into the time that someone has, and in which order they catch up. */
import { keepPreviousData } from '@tanstack/vue-query'
import { useStorage } from '@vueuse/core'
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import { useCatchUpPlan } from '../../api/catchup'
import FaultNote from '../../parts/FaultNote.vue'
import { durationText, timecode } from '../../parts/time'

const order = defineModel<'date' | 'next'>('order', { required: true })
const { t } = useI18n()
/** How much time one had last is what one has next. */
const minutes = useStorage('late-lantern-minutes', 40)
const have = computed(() => Math.min(1440, Math.max(1, Math.round(minutes.value || 1))))
const plan = useCatchUpPlan(have, order, { placeholderData: keepPreviousData })
const orders = computed(() => (['date', 'next'] as const).map((value) => ({ value, label: t(`catch_up.by_${value}`) })))
</script>

<template>
  <section class="page plan" :aria-label="t('catch_up.plan')">
    <div class="asks">
      <label for="plan-minutes">{{ t('catch_up.have') }}</label>
      <el-input-number id="plan-minutes" v-model="minutes" :min="1" :max="1440" :step="5" controls-position="right" />
      <span>{{ t('catch_up.minutes', have) }}</span>
      <el-radio-group v-model="order" :aria-label="t('catch_up.order')">
        <el-radio v-for="o in orders" :key="o.value" :value="o.value">{{ o.label }}</el-radio>
      </el-radio-group>
    </div>
    <FaultNote v-if="plan.error.value" :error="plan.error.value" again @again="plan.refetch()" />
    <template v-if="plan.data.value">
      <p v-if="plan.data.value.steps.length === 0" class="soft">{{ t('catch_up.nothing_fits') }}</p>
      <ol v-else class="plain">
        <li v-for="s in plan.data.value.steps" :key="`${s.recording_id} ${s.start}`">
          <span class="soft">{{ s.course }}</span>
          <router-link :to="{ name: 'watch', params: { recording: s.recording_id }, query: { at: s.start } }">{{
            s.title
          }}</router-link>
          <span class="mono soft" dir="ltr">{{ timecode(s.start) }}–{{ timecode(s.end) }}</span>
          <span>{{ s.whole ? '' : t('catch_up.beginning') }}</span>
        </li>
      </ol>
      <p class="small" role="status">
        {{
          t(plan.data.value.after_ms > 0 ? 'catch_up.plan_sum' : 'catch_up.plan_all', {
            needs: durationText(plan.data.value.needs_ms),
            speed: plan.data.value.speed,
            after: durationText(plan.data.value.after_ms),
          })
        }}
      </p>
    </template>
  </section>
</template>

<style scoped>
.plan {
  margin-bottom: 16px;
}

.asks {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 10px;
  align-items: center;
}

.asks .el-input-number {
  width: 96px;
}

.el-radio-group {
  gap: 0 20px;
  margin-inline-start: auto;
}

.el-radio {
  margin: 0;
}

li {
  display: grid;
  grid-template-columns: 72px minmax(0, 1fr) auto 120px;
  gap: 0 14px;
  align-items: baseline;
  min-height: 32px;
  padding: 6px 0;
  border-bottom: 1px solid var(--rule);
}

@media (max-width: 700px) {
  li {
    grid-template-columns: minmax(0, 1fr) auto;
  }

  li > span:first-child {
    grid-column: 1 / -1;
  }
}
</style>
