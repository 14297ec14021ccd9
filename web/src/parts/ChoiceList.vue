<script setup lang="ts" generic="V extends string | number">
/**
 * One of several, by its name; where there are many, one can type to find it. The library's list says its name, but not
 * what is chosen, to those who cannot see it: so the name says both.
 */
import { computed, useId } from 'vue'

const value = defineModel<V>({ required: true })
const props = defineProps<{
  /** Of the slot of a form, which shows its name; without one the name stands before it. */
  id?: string
  label: string
  options: { value: V; text: string }[]
  disabled?: boolean
  /** What stands beside it says what it is: small, and its name is only read out. */
  bare?: boolean
  /** What is typed and none of them becomes one. */
  create?: boolean
}>()
const own = useId()
/** More than so many are not taken in at a glance. */
const many = 9
/** Of more than so many only those that are seen are drawn. */
const endless = 60
const chosen = computed(() => props.options.find((o) => o.value === value.value)?.text ?? '')
const common = computed(() => ({
  id: props.id ?? own,
  ariaLabel: chosen.value ? `${props.label}: ${chosen.value}` : props.label,
  disabled: props.disabled,
  validateEvent: false,
  placeholder: '',
  emptyValues: [null, undefined],
  fitInputWidth: false,
}))
</script>

<template>
  <span class="choice-list" :class="{ bare }">
    <label v-if="!id" :class="{ away: bare }" :for="own">{{ label }}</label>
    <el-select-v2
      v-if="!create && options.length > endless"
      v-bind="common"
      v-model="value"
      filterable
      :options="options.map((o) => ({ value: o.value, label: o.text }))"
    />
    <el-select
      v-else
      v-bind="common"
      v-model="value"
      :filterable="create || options.length > many"
      :allow-create="create"
      :default-first-option="create"
    >
      <el-option v-for="o in options" :key="o.value" :value="o.value" :label="o.text" />
    </el-select>
  </span>
</template>

<style scoped>
.choice-list {
  display: inline-flex;
  gap: 8px;
  align-items: center;
  max-width: 100%;
}

.el-select {
  width: 260px;
  min-width: 0;
}

.bare .el-select {
  width: 170px;
}

.bare :deep(.el-select__wrapper.el-select__wrapper) {
  min-height: 30px;
  padding-block: 2px;
  font-size: 14px;
}
</style>
