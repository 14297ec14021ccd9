<script setup lang="ts">
/** Puts a question to all: one that the course keeps, or one that is made on the spot. */
import { useStorage } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { prepareQuestion, putToAll, usePrepared, type QuestionText } from '../../../api/toAll'
import FaultNote from '../../../parts/FaultNote.vue'
import { useForm } from '../../../parts/form'
import { newId } from '../../../parts/uuid'
import QuestionForm from './QuestionForm.vue'
import { written } from './written'

const props = defineProps<{ lecture: string; course: string }>()
const emit = defineEmits<{ put: []; close: [] }>()
const { t } = useI18n()
const list = usePrepared(() => props.course)
const prepared = computed(() => list.data.value?.questions ?? [])
const chosen = ref<'kept' | 'new'>()
const from = computed(() => chosen.value ?? (prepared.value.length > 0 ? 'kept' : 'new'))
const draft = ref<QuestionText>({ kind: 'one', text: '', choices: ['', ''], right: [] })
const keep = ref(false)
/** For how many seconds it is open, as one chose the last time; 0 until it is closed. */
const seconds = useStorage('late-lantern-to-all-seconds', 60)
const times = [30, 60, 120, 300, 0]
const form = useForm()
/** The same question pressed twice is asked once. */
let id = ''
let tried = ''

async function put(question: QuestionText, kept: boolean) {
  if (JSON.stringify(question) !== tried) id = newId()
  tried = JSON.stringify(question)
  const done = await form.send(async () => {
    await putToAll(props.lecture, id, question, seconds.value)
    if (kept) await prepareQuestion(props.course, newId(), question)
    return true
  })
  if (!done) return
  tried = ''
  emit('put')
}
</script>

<template>
  <section class="put" :aria-label="t('asking.put')" @keydown.esc.stop="emit('close')">
    <div class="bar-of-acts">
      <el-radio-group
        v-if="prepared.length > 0"
        :model-value="from"
        size="small"
        :aria-label="t('asking.which')"
        @update:model-value="(v) => (chosen = v as 'kept' | 'new')"
      >
        <el-radio-button value="kept">{{ t('asking.prepared', { n: prepared.length }) }}</el-radio-button>
        <el-radio-button value="new">{{ t('asking.new') }}</el-radio-button>
      </el-radio-group>
      <el-button link class="push" @click="emit('close')">{{ t('close') }}</el-button>
    </div>
    <p class="time small">
      <span id="to-all-time">{{ t('asking.time') }}</span>
      <el-radio-group v-model="seconds" size="small" aria-labelledby="to-all-time">
        <el-radio-button v-for="s in times" :key="s" :value="s">{{
          s === 0
            ? t('asking.until_closed')
            : s < 60
              ? t('asking.seconds', { n: s })
              : t('asking.minutes', { n: s / 60 })
        }}</el-radio-button>
      </el-radio-group>
    </p>
    <ol v-if="from === 'kept'" class="plain kept">
      <li v-for="p in prepared" :key="p.id">
        <span class="text"
          ><bdi>{{ p.question.text }}</bdi>
          <span class="soft small">{{ t(`to_all.kinds.${p.question.kind}`) }}</span></span
        >
        <el-button
          size="small"
          :disabled="form.busy.value"
          :aria-label="t('asking.put_it', { text: p.question.text })"
          @click="put(p.question, false)"
          >{{ t('asking.put') }}</el-button
        >
      </li>
    </ol>
    <form v-else @submit.prevent="put(written(draft), keep)">
      <QuestionForm v-model="draft" :faults="form.fields.value" />
      <div class="bar-of-acts">
        <el-button native-type="submit" type="primary" :disabled="form.busy.value">{{ t('asking.put') }}</el-button>
        <el-checkbox v-model="keep">{{ t('asking.keep') }}</el-checkbox>
      </div>
    </form>
    <FaultNote v-if="form.whole.value" :error="form.whole.value" />
  </section>
</template>

<style scoped>
.put {
  padding: 10px 14px 12px;
  border: 1px solid var(--rule-strong);
  border-radius: 4px;
  background: var(--shell);
}

.time {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 10px;
  align-items: center;
  margin: 8px 0;
}

.kept {
  max-height: 300px;
  overflow-y: auto;
}

.kept li {
  display: flex;
  gap: 12px;
  align-items: center;
  padding: 6px 0;
  border-top: 1px solid var(--rule);
}

.kept .text {
  flex: 1;
  min-width: 0;
  overflow-wrap: anywhere;
}

form .bar-of-acts {
  margin-top: 10px;
}
</style>
