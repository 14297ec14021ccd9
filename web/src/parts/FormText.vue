<script setup lang="ts">
/** A field of one line: its name, what is entered, and what is wrong with it where it is wrong. */
import FormSlot from './FormSlot.vue'

const value = defineModel<string | number>({ required: true })
const props = withDefaults(
  defineProps<{
    label: string
    fault?: string
    help?: string
    /** Within a sentence the name is only read out. */
    inline?: boolean
    type?: string
    size?: 'clock' | 'number' | 'wide'
  }>(),
  { fault: undefined, help: undefined, type: 'text', size: undefined },
)
defineOptions({ inheritAttrs: false })

const looks = { clock: 'entry-clock', number: 'entry-number', wide: 'wide' }

function entered(text: string) {
  value.value = props.type === 'number' ? Math.round(Number(text)) : text
}
</script>

<template>
  <FormSlot v-slot="x" :label="label" :fault="fault" :help="help" :inline="inline">
    <el-input
      v-bind="$attrs"
      :id="x.id"
      :class="size && looks[size]"
      :type="type"
      :model-value="value"
      :validate-event="false"
      :aria-invalid="x.invalid"
      :aria-describedby="x.described"
      @input="entered"
    />
  </FormSlot>
</template>
