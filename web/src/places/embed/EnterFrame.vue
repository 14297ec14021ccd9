<script setup lang="ts">
/** Beside a frame: whoever has signed in here is told to the frame that opened this, and this page closes. */
import { onMounted, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { makeFrameKey } from '../../api/embed'
import FaultNote from '../../parts/FaultNote.vue'
import OutsideFrame from '../../parts/OutsideFrame.vue'
import type { Told } from './beside'

const { t } = useI18n()
const told = ref(false)
const fault = ref<unknown>()

async function tell() {
  fault.value = undefined
  try {
    const { key } = await makeFrameKey()
    const word: Told = { lateLanternKey: key }
    ;(window.opener as Window | null)?.postMessage(word, window.location.origin)
    told.value = true
    window.close()
  } catch (e) {
    fault.value = e
  }
}
onMounted(tell)
</script>

<template>
  <OutsideFrame>
    <h1>{{ t('embed.enter') }}</h1>
    <p v-if="told" role="status">{{ t('embed.go_back') }}</p>
    <FaultNote v-if="fault" :error="fault" again @again="tell" />
  </OutsideFrame>
</template>
