<script setup lang="ts">
/** Asks those who teach about the moment that plays. */
import { useQueryClient } from '@tanstack/vue-query'
import { nextTick, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { keys } from '../../api/queries'
import FaultNote from '../../parts/FaultNote.vue'
import { timecode } from '../../parts/time'
import { useSaying } from '../common/saying'

const props = defineProps<{ recording: string; edition: string; lecture: string; at: number }>()
const { t } = useI18n()
const client = useQueryClient()
const open = ref(false)
/** The moment stays where it was when one began to ask. */
const moment = ref(0)
const text = ref('')
const asked = ref(false)
const field = ref<{ focus: () => void }>()
const saying = useSaying(
  () => props.lecture,
  () => {
    asked.value = true
    void client.invalidateQueries({ queryKey: keys.saidIn(props.recording) })
  },
)

async function begin() {
  moment.value = props.at
  open.value = true
  asked.value = false
  await nextTick()
  field.value?.focus()
}

function send() {
  if (!text.value.trim()) return
  saying.put({
    text: text.value,
    question: true,
    later: true,
    heard: { recording: props.recording, edition: props.edition, at: moment.value },
  })
  text.value = ''
  open.value = false
}
</script>

<template>
  <div class="ask">
    <form v-if="open" @submit.prevent="send" @keydown.esc.stop="open = false">
      <p>{{ t('ask.about', { at: timecode(moment) }) }}</p>
      <el-input
        ref="field"
        v-model="text"
        type="textarea"
        :autosize="{ minRows: 2, maxRows: 8 }"
        :maxlength="2000"
        :aria-label="t('ask.text')"
      />
      <div class="bar-of-acts">
        <el-button native-type="submit" type="primary" :disabled="!text.trim()">{{ t('ask.send') }}</el-button>
        <el-button link @click="open = false">{{ t('leave') }}</el-button>
      </div>
    </form>
    <el-button v-else @click="begin">{{ t('ask.name') }}</el-button>
    <p v-if="asked && !open" class="small" role="status">{{ t('ask.sent') }}</p>
    <p v-else-if="saying.waiting.value.some((w) => w.later) && saying.held.value" class="soft small" role="status">
      {{ t('ask.waits') }}
    </p>
    <FaultNote v-if="saying.refused.value" :error="saying.refused.value.error" />
  </div>
</template>

<style scoped>
.ask {
  margin: 10px 0 0;
}

form {
  display: grid;
  gap: 6px;
  max-width: 640px;
  padding: 10px 14px;
  border: 1px solid var(--rule);
  border-radius: 4px;
  background: var(--shell);
}

p {
  margin: 0;
}
</style>
