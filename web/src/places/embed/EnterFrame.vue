<script setup lang="ts">
/** Beside a frame: whoever has signed in here is told to the frame that opened this, and this page closes. */
import { onMounted, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { makeFrameKey } from '../../api/embed'
import FaultNote from '../../parts/FaultNote.vue'
import { useForm } from '../../parts/form'
import OutsideFrame from '../../parts/OutsideFrame.vue'
import type { Told } from './beside'

const { t } = useI18n()
const told = ref(false)
const { problem, act } = useForm()

async function tell() {
  await act(async () => {
    const { key } = await makeFrameKey()
    const word: Told = { lateLanternKey: key }
    ;(window.opener as Window | null)?.postMessage(word, window.location.origin)
    told.value = true
    window.close()
  })
}
onMounted(tell)
</script>

<template>
  <OutsideFrame>
    <h1>{{ t('embed.enter') }}</h1>
    <p v-if="told" role="status">{{ t('embed.go_back') }}</p>
    <FaultNote v-if="problem" :error="problem" again @again="tell" />
  </OutsideFrame>
</template>
