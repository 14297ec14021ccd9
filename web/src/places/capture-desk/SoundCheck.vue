<script setup lang="ts">
/** Records three seconds of what is heard and plays them back: nothing of it leaves the page. */
import { onScopeDispose, ref } from 'vue'
import { useI18n } from 'vue-i18n'

const props = defineProps<{ mix: MediaStream }>()
const { t } = useI18n()
const length = 3000
const state = ref<'idle' | 'listening' | 'playing' | 'silent'>('idle')
let recorder: MediaRecorder | undefined
let player: HTMLAudioElement | undefined
let address = ''

function clean() {
  if (address) URL.revokeObjectURL(address)
  address = ''
}

function check() {
  player?.pause()
  const pieces: Blob[] = []
  recorder = new MediaRecorder(props.mix)
  recorder.ondataavailable = (e) => pieces.push(e.data)
  recorder.onstop = () => {
    clean()
    address = URL.createObjectURL(new Blob(pieces, { type: recorder?.mimeType }))
    player = new Audio(address)
    player.onended = () => (state.value = 'idle')
    state.value = 'playing'
    player.play().catch(() => (state.value = 'silent'))
  }
  state.value = 'listening'
  recorder.start()
  window.setTimeout(() => recorder?.state === 'recording' && recorder.stop(), length)
}

onScopeDispose(() => {
  if (recorder?.state === 'recording') {
    recorder.onstop = null
    recorder.stop()
  }
  player?.pause()
  clean()
})
</script>

<template>
  <el-button :disabled="state === 'listening'" @click="check">
    {{ t('desk.sound_check') }}
  </el-button>
  <span role="status" class="soft">{{ state === 'idle' ? '' : t(`desk.sound_${state}`) }}</span>
</template>
