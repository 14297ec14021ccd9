<script setup lang="ts" generic="V extends string">
/** Several of many, by their names; one can type to find them. Its name says how many are chosen. */
import { computed, useId } from 'vue'

const values = defineModel<V[]>({ required: true })
const props = defineProps<{ label: string; options: { value: V; text: string }[]; disabled?: boolean }>()
const id = useId()
const name = computed(() => {
  const chosen = props.options.filter((o) => values.value.includes(o.value)).map((o) => o.text)
  return chosen.length > 0 ? `${props.label}: ${chosen.join(', ')}` : props.label
})
</script>

<template>
  <div class="field">
    <label :for="id">{{ label }}</label>
    <el-select
      :id="id"
      v-model="values"
      multiple
      filterable
      :teleported="false"
      :aria-label="name"
      :disabled="disabled"
      :validate-event="false"
      placeholder=""
    >
      <el-option v-for="o in options" :key="o.value" :value="o.value" :label="o.text" />
    </el-select>
  </div>
</template>
