<script setup lang="ts">
/** How people come in, and whether capture starts by itself: one choice each, so that none contradicts another. */
import { I18nT, useI18n } from 'vue-i18n'
import type { Choices } from '../../api/timetable'
import FormText from '../../parts/FormText.vue'

const choices = defineModel<Choices>({ required: true })
defineProps<{ faults: Record<string, string> }>()
const { t } = useI18n()
const ways = ['walk_in', 'ask', 'closed'] as const

const set = (what: Partial<Choices>) => Object.assign(choices.value, what)
</script>

<template>
  <div>
    <fieldset>
      <legend>{{ t('doorway.name') }}</legend>
      <el-radio-group
        :model-value="choices.doorway"
        :aria-label="t('doorway.name')"
        @update:model-value="(w) => set({ doorway: w as (typeof ways)[number] })"
      >
        <el-radio v-for="w in ways" :key="w" :value="w">
          <b>{{ t(`doorway.${w}`) }}</b> <span class="soft">{{ t(`doorway.${w}_help`) }}</span>
        </el-radio>
      </el-radio-group>
      <div v-if="choices.doorway !== 'closed'" class="sentence-form small-form">
        <I18nT keypath="doorway.opens" scope="global">
          <template #n>
            <FormText
              :model-value="choices.opens_min"
              :label="t('doorway.opens_min')"
              :fault="faults.opens_min"
              inline
              type="number"
              size="number"
              min="0"
              max="240"
              @update:model-value="set({ opens_min: Number($event) })"
            />
          </template>
        </I18nT>
      </div>
    </fieldset>
    <fieldset>
      <legend>{{ t('plan.capture') }}</legend>
      <el-radio-group
        :model-value="choices.capture_auto"
        :aria-label="t('plan.capture')"
        @update:model-value="(on) => set({ capture_auto: on === true })"
      >
        <el-radio :value="false">{{ t('plan.by_hand') }}</el-radio>
        <el-radio :value="true">{{ t('plan.by_itself') }}</el-radio>
      </el-radio-group>
      <div v-if="choices.capture_auto" class="sentence-form small-form">
        <I18nT keypath="plan.lead_tail" scope="global">
          <template #lead>
            <FormText
              :model-value="choices.lead_min"
              :label="t('plan.lead')"
              :fault="faults.lead_min"
              inline
              type="number"
              size="number"
              min="0"
              max="120"
              @update:model-value="set({ lead_min: Number($event) })"
            />
          </template>
          <template #tail>
            <FormText
              :model-value="choices.tail_min"
              :label="t('plan.tail')"
              :fault="faults.tail_min"
              inline
              type="number"
              size="number"
              min="0"
              max="240"
              @update:model-value="set({ tail_min: Number($event) })"
            />
          </template>
        </I18nT>
      </div>
    </fieldset>
  </div>
</template>

<style scoped>
fieldset {
  margin: 0 0 12px;
  padding: 0;
  border: 0;
}

legend {
  margin-bottom: 2px;
  padding: 0;
  font-weight: 700;
}

.el-radio-group {
  flex-direction: column;
  align-items: flex-start;
}

.small-form {
  margin: 4px 0 0 25px;
  font-size: 15px;
}
</style>
