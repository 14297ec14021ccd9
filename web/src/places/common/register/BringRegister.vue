<script setup lang="ts">
/** Who was there, from a file: what it made of the register, what of it is not taken, and the way back. */
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../../api/client'
import { bringRegister, takeBackRegister } from '../../../api/register'
import { say } from '../../../messages/said'
import FaultNote from '../../../parts/FaultNote.vue'
import FilePick from '../../../parts/FilePick.vue'
import UndoLine from '../../../parts/UndoLine.vue'
import { useForm } from '../../../parts/form'

const props = defineProps<{ lecture: string }>()
const emit = defineEmits<{ brought: [] }>()
const { t } = useI18n()
const { problem, done, send, said } = useForm()
const got = ref<Schemas['BroughtRegister']>()

/** What else is to be said of it, in short sentences. */
const more = computed(() => {
  const g = got.value
  if (!g) return ''
  const of = { stood: g.stood, by_hand: g.by_hand, others: g.others }
  return Object.entries(of)
    .filter(([, n]) => n > 0)
    .map(([key, n]) => t(`register.brought_${key}`, { n }, n))
    .join(' ')
})

async function bring([file]: File[]) {
  if (!file) return
  done.value = undefined
  const { lecture } = props
  const b = (got.value = await send(() => bringRegister(lecture, file)))
  if (!b) return
  if (b.kept > 0)
    said(t('register.brought', { n: b.kept }, b.kept), async () => {
      await takeBackRegister(lecture, b.file)
      got.value = undefined
      emit('brought')
    })
  emit('brought')
}
</script>

<template>
  <div class="bring">
    <p class="small"><FilePick :text="t('register.bring')" accept=".csv,.txt,.tsv" @files="bring" /></p>
    <p class="soft small">{{ t('register.bring_help') }}</p>
    <FaultNote v-if="problem" :error="problem" />
    <UndoLine v-if="done" v-bind="done" :key="done.key" />
    <div v-if="got" role="status" class="small">
      <p v-if="got.kept === 0">{{ t('register.brought', { n: 0 }, 0) }}</p>
      <p v-if="more">{{ more }}</p>
      <template v-if="got.leaves > 0">
        <p>{{ t('register.brought_left', { n: got.leaves }, got.leaves) }}</p>
        <ul class="plain">
          <li v-for="x in got.left" :key="x.line">
            <bdi>{{ t('register.brought_line', { n: x.line, who: x.who }) }}</bdi> {{ say(x.why) }}
          </li>
          <li v-if="got.leaves > got.left.length">
            {{ t('register.brought_more', { n: got.leaves - got.left.length }) }}
          </li>
        </ul>
      </template>
    </div>
  </div>
</template>

<style scoped>
.bring p {
  margin: 4px 0;
}
</style>
