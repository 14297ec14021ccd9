<script setup lang="ts">
/** Taking someone off a course: first what they could no longer watch. */
import { useQuery } from '@tanstack/vue-query'
import { onMounted, useTemplateRef } from 'vue'
import { useI18n } from 'vue-i18n'
import { previewOff } from '../../api/people'
import FaultNote from '../../parts/FaultNote.vue'
import { useForm } from '../../parts/form'

const props = defineProps<{ course: string; person: { id: string; name: string }; off: () => Promise<unknown> }>()
const emit = defineEmits<{ close: [] }>()
const { t } = useI18n()
const form = useForm()
const effect = useQuery({
  queryKey: ['people', props.course, 'off', props.person.id],
  queryFn: () => previewOff(props.course, props.person.id),
})
const entry = useTemplateRef<HTMLFormElement>('entry')
onMounted(() => {
  entry.value?.scrollIntoView({ block: 'center' })
  entry.value?.querySelector('button')?.focus()
})

async function go() {
  if (await form.send(async () => (await props.off(), true))) emit('close')
}
</script>

<template>
  <form
    ref="entry"
    class="page bar-of-acts"
    :aria-label="t('people.take_off_it', { name: person.name })"
    @submit.prevent="go"
  >
    <span role="status">
      <template v-if="effect.data.value">
        {{ t('people.off_fewer', { name: person.name, n: effect.data.value.fewer }, effect.data.value.fewer) }}
      </template>
      <FaultNote v-else-if="effect.error.value" :error="effect.error.value" />
    </span>
    <el-button class="push" type="primary" native-type="submit" :disabled="form.busy.value">
      {{ t('people.take_off_it', { name: person.name }) }}
    </el-button>
    <el-button link @click="emit('close')">{{ t('leave') }}</el-button>
    <FaultNote v-if="form.whole.value" :error="form.whole.value" />
  </form>
</template>
