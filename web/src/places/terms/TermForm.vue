<script setup lang="ts">
/** A term with its breaks, as it is entered. */
import { useQueryClient } from '@tanstack/vue-query'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'
import { useTermChange } from '../../api/timetable'
import ChoiceList from '../../parts/ChoiceList.vue'
import FaultNote from '../../parts/FaultNote.vue'
import FormDay from '../../parts/FormDay.vue'
import FormSlot from '../../parts/FormSlot.vue'
import FormText from '../../parts/FormText.vue'
import { useForm, type Done } from '../../parts/form'

const props = defineProps<{ id?: string; term?: Schemas['TermText'] }>()
const emit = defineEmits<{ close: [done?: Done] }>()
const { t } = useI18n()
const client = useQueryClient()
const change = useTermChange()
const fresh: Schemas['TermText'] = {
  name: '',
  zone: Intl.DateTimeFormat().resolvedOptions().timeZone,
  first_day: '',
  last_day: '',
  breaks: [],
}
const { draft, busy, fields, whole, done, send, keep, reset } = useForm(() => props.term ?? fresh)
const zones = [...new Set([draft.value.zone, ...Intl.supportedValuesOf('timeZone')])]

const write = (term: Schemas['TermText']) => change.mutateAsync({ do: 'term', id: props.id, term })

async function again() {
  for (const key of ['board', 'term', 'courses']) await client.invalidateQueries({ queryKey: [key] })
}

async function enter() {
  if (props.id) {
    if (await keep(write, t('term.kept', { name: draft.value.name }), again)) emit('close', done.value)
    return
  }
  if (!(await send(() => write(draft.value)))) return
  reset()
  void again()
  emit('close')
}
</script>

<template>
  <form @submit.prevent="enter">
    <FormText v-model="draft.name" :label="t('term.name')" :fault="fields.name" />
    <div class="bar-of-acts top">
      <FormDay v-model="draft.first_day" :label="t('term.first')" :fault="fields.first_day" />
      <FormDay v-model="draft.last_day" :label="t('term.last')" :fault="fields.last_day" />
      <FormSlot v-slot="x" :label="t('term.zone')" :fault="fields.zone">
        <ChoiceList
          :id="x.id"
          v-model="draft.zone"
          :label="t('term.zone')"
          :options="zones.map((z) => ({ value: z, text: z }))"
        />
      </FormSlot>
    </div>
    <fieldset v-for="(b, n) in draft.breaks" :key="n" class="bar-of-acts top">
      <legend class="away">{{ t('term.a_break') }}</legend>
      <FormText v-model="b.name" :label="t('term.a_break')" :fault="fields[`breaks.${n}`]" />
      <FormDay v-model="b.first_day" :label="t('term.break_first')" />
      <FormDay v-model="b.last_day" :label="t('term.break_last')" />
      <el-button link @click="draft.breaks.splice(n, 1)">{{ t('term.no_break') }}</el-button>
    </fieldset>
    <el-button link @click="draft.breaks.push({ name: '', first_day: draft.first_day, last_day: draft.first_day })">
      {{ t('term.add_break') }}
    </el-button>
    <FaultNote v-if="whole" :error="whole" />
    <div class="bar-of-acts">
      <el-button type="primary" native-type="submit" :disabled="busy">{{ t('keep') }}</el-button>
      <el-button link @click="emit('close')">{{ t('leave') }}</el-button>
    </div>
  </form>
</template>

<style scoped>
form {
  width: 100%;
}

.top {
  align-items: flex-start;
}

fieldset {
  padding: 0;
  border: 0;
}

fieldset .el-button {
  align-self: center;
  margin-top: 22px;
}

.bar-of-acts:last-child {
  margin-top: 12px;
}
</style>
