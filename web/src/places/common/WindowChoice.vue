<script setup lang="ts">
/** From when a right holds, or until when. */
import { computed } from 'vue'
import { I18nT, useI18n } from 'vue-i18n'
import type { Right } from '../../api/rules'
import DayPick from '../../parts/DayPick.vue'
import { collegeNow } from '../../parts/clock'
import { dayAfter, dayOf, startOf } from '../../parts/days'
import { fromDay, untilDay } from './ruleWords'

const right = defineModel<Right>({ required: true })
const props = defineProps<{ end: 'from' | 'until'; zone: string }>()
const { t } = useI18n()
const set = (change: Partial<Right>) => (right.value = { ...right.value, ...change })
const today = () => dayOf(collegeNow(), props.zone)
const first = computed(() => fromDay(right.value, props.zone))
const last = computed(() => untilDay(right.value, props.zone))
/** So many days a right can name. */
const most = 3650

function setFrom(from: Right['from'], day = first.value || today()) {
  set({
    from,
    from_at: from === 'date' ? startOf(day, props.zone).toISOString() : undefined,
    days_after_lecture: from === 'days' ? right.value.days_after_lecture || 1 : undefined,
  })
}

function setUntil(until: Right['until'], day = last.value || dayAfter(today(), 30)) {
  set({ until, until_at: until === 'date' ? startOf(dayAfter(day), props.zone).toISOString() : undefined })
}
</script>

<template>
  <el-radio-group
    v-if="end === 'from'"
    :model-value="right.from"
    :aria-label="t('rule.choose_from')"
    @update:model-value="(f) => setFrom(f as Right['from'])"
  >
    <el-radio value="once">{{ t('rule.once') }}</el-radio>
    <el-radio value="lecture">{{ t('rule.from_lecture') }}</el-radio>
    <el-radio value="days">
      <I18nT keypath="rule.days_later_of" scope="global">
        <template #n>
          <el-input-number
            :model-value="right.days_after_lecture || 1"
            :min="1"
            :max="most"
            :step-strictly="true"
            size="small"
            :aria-label="t('rule.days_later_n')"
            @update:model-value="
              (n: number | undefined) => set({ from: 'days', from_at: undefined, days_after_lecture: n ?? 1 })
            "
          />
        </template>
      </I18nT>
    </el-radio>
    <el-radio value="date">{{ t('rule.a_day') }}</el-radio>
    <DayPick
      v-if="right.from === 'date'"
      :model-value="first"
      :label="t('rule.choose_from')"
      @update:model-value="(d: string) => setFrom('date', d)"
    />
  </el-radio-group>
  <el-radio-group
    v-else
    :model-value="right.until"
    :aria-label="t('rule.choose_until')"
    @update:model-value="(u) => setUntil(u as Right['until'])"
  >
    <el-radio value="term">
      <I18nT keypath="rule.days_after" scope="global">
        <template #n>
          <el-input-number
            :model-value="right.days_after_term"
            :min="0"
            :max="most"
            :step-strictly="true"
            size="small"
            :aria-label="t('rule.days')"
            @update:model-value="
              (n: number | undefined) => set({ until: 'term', until_at: undefined, days_after_term: n ?? 0 })
            "
          />
        </template>
      </I18nT>
    </el-radio>
    <el-radio value="date">{{ t('rule.a_day') }}</el-radio>
    <DayPick
      v-if="right.until === 'date'"
      :model-value="last"
      :label="t('rule.choose_until')"
      @update:model-value="(d: string) => setUntil('date', d)"
    />
    <el-radio value="ever">{{ t('rule.until_ever') }}</el-radio>
  </el-radio-group>
</template>

<style scoped>
.el-radio-group {
  gap: 6px 22px;
}

.el-input-number {
  width: 96px;
  margin-inline: 4px;
}
</style>
