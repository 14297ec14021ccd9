<script setup lang="ts" generic="V extends string | number">
/**
 * One of several, by its name; where there are many, one can type to find it. The library's list says its name, but not
 * what is chosen, to those who cannot see it: so the name says both.
 */
import { computed } from 'vue'

const value = defineModel<V>({ required: true })
const props = defineProps<{
  id?: string
  label: string
  options: { value: V; text: string }[]
  disabled?: boolean
}>()
/** More than so many are not taken in at a glance. */
const many = 9
const chosen = computed(() => props.options.find((o) => o.value === value.value)?.text ?? '')
</script>

<template>
  <el-select
    :id="id"
    v-model="value"
    class="choice-list"
    :aria-label="chosen ? `${label}: ${chosen}` : label"
    :filterable="options.length > many"
    :disabled="disabled"
    :validate-event="false"
    placeholder=""
    :empty-values="[null, undefined]"
    :fit-input-width="false"
  >
    <el-option v-for="o in options" :key="o.value" :value="o.value" :label="o.text" />
  </el-select>
</template>

<style scoped>
.choice-list {
  width: 260px;
  max-width: 100%;
}
</style>
