<script setup lang="ts">
/** Which courses the board shows, and how close they stand. */
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import ChoiceList from '../../parts/ChoiceList.vue'
import { densities, states, type Density, type useFilter } from './filter'

const props = defineProps<{ filter: ReturnType<typeof useFilter>; many: boolean }>()
const density = defineModel<Density>({ required: true })
const choosing = defineModel<boolean>('choosing', { required: true })
const { t, te } = useI18n()
const chosen = computed(() => props.filter.chosen)
const listed = (all: string, names: string[]) => [
  { value: '', text: t(`board.all_${all}`) },
  ...names.map((value) => ({ value, text: value })),
]
const stateText = (s: string) =>
  te(`board.with.${s}`) ? t(`board.with.${s}`) : t('board.next', { step: t(`step.${s}`) })
const stated = computed(() => {
  const more = chosen.value.state
  const all = more && !(states as readonly string[]).includes(more) ? [...states, more] : states
  return [{ value: '', text: t('board.all_states') }, ...all.map((value) => ({ value, text: stateText(value) }))]
})
</script>

<template>
  <div class="tools small">
    <template v-if="many">
      <el-input
        v-model="chosen.words"
        class="compact words"
        type="search"
        :aria-label="t('board.find')"
        :placeholder="t('board.find')"
      />
      <ChoiceList v-model="chosen.hall" bare :label="t('plan.hall')" :options="listed('halls', filter.halls.value)" />
      <ChoiceList
        v-model="chosen.lecturer"
        bare
        :label="t('role.lecturer')"
        :options="listed('lecturers', filter.lecturers.value)"
      />
      <ChoiceList v-model="chosen.state" bare :label="t('board.state')" :options="stated" />
    </template>
    <el-checkbox v-if="filter.mixed.value" v-model="chosen.mine">{{ t('board.mine') }}</el-checkbox>
    <el-button class="push choose" :aria-pressed="choosing" @click="choosing = !choosing">{{
      t('board.choose')
    }}</el-button>
    <el-segmented
      v-model="density"
      :aria-label="t('board.density')"
      :options="densities.map((value) => ({ value, label: t(`board.${value}`) }))"
    />
  </div>
</template>

<style scoped>
.tools {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 14px;
  align-items: center;
}

.choose.choose.choose {
  min-height: 30px;
  height: 30px;
  padding: 0 12px;
  font-size: 14px;
}

.words.words.words {
  width: 210px;
}
</style>
