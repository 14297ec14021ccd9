<script setup lang="ts">
/** Proposes what a line of captions should say, and shows what one proposed until someone who teaches looked at it. */
import { computed, nextTick, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'
import { useProposed, useProposing, type Reading } from '../../api/proposed'
import FaultNote from '../../parts/FaultNote.vue'
import { useForm } from '../../parts/form'
import { timecode } from '../../parts/time'

const props = defineProps<{
  of: Reading
  /** The line that is said now. */
  line?: Schemas['Cue']
}>()
const { t } = useI18n()
const form = useForm()
/** The line stays what it was when one began, whatever plays. */
const about = ref<Schemas['Cue']>()
const text = ref('')
const field = ref<{ focus: () => void }>()
const own = useProposed(
  () => props.of,
  () => true,
)
const proposing = useProposing(() => props.of)
const lines = computed(() => own.data.value?.lines ?? [])
const edited = computed(() => text.value.trim() !== '' && text.value.trim() !== about.value?.text)
watch(
  () => [props.of.recording, props.of.language],
  () => (about.value = undefined),
)

async function begin() {
  if (!props.line) return
  about.value = props.line
  text.value = props.line.text
  form.problem.value = undefined
  await nextTick()
  field.value?.focus()
}

async function send() {
  const line = about.value
  if (!line || !edited.value) return
  const kept = await form.send(() => proposing.propose({ at: line.start, seen: line.text, text: text.value }))
  if (kept) about.value = undefined
}
const withdraw = (id: string) => void form.send(() => proposing.withdraw(id))
</script>

<template>
  <div class="propose">
    <form v-if="about" @submit.prevent="send" @keydown.esc.stop="about = undefined">
      <p class="soft small">{{ t('propose.about', { at: timecode(about.start) }) }}</p>
      <el-input
        ref="field"
        v-model="text"
        type="textarea"
        :autosize="{ minRows: 2, maxRows: 6 }"
        :maxlength="600"
        :aria-label="t('propose.text')"
      />
      <p class="do">
        <el-button type="primary" native-type="submit" :disabled="!edited || form.busy.value">{{
          t('propose.send')
        }}</el-button>
        <el-button link @click="about = undefined">{{ t('leave') }}</el-button>
      </p>
    </form>
    <el-button v-else-if="line" link @click="begin">{{ t('propose.open') }}</el-button>
    <FaultNote v-if="form.problem.value" :error="form.problem.value" />
    <ul v-if="lines.length > 0" class="plain small" :aria-label="t('propose.own')">
      <li v-for="l in lines" :key="l.id">
        <span class="mono soft">{{ timecode(l.at) }}</span>
        <span>{{ t('propose.waits', { text: l.text }) }}</span>
        <el-button link :aria-label="t('propose.withdraw_it', { text: l.text })" @click="withdraw(l.id)">{{
          t('propose.withdraw')
        }}</el-button>
      </li>
    </ul>
  </div>
</template>

<style scoped>
.propose {
  display: grid;
  gap: 6px;
  justify-items: start;
}

form {
  width: 100%;
}

.do {
  display: flex;
  gap: 16px;
  margin-top: 6px;
}

ul {
  width: 100%;
}

li {
  display: grid;
  grid-template-columns: 44px 1fr auto;
  gap: 8px;
  align-items: baseline;
  padding: 4px 0;
  border-top: 1px solid var(--rule);
}
</style>
