<script setup lang="ts">
/** A recording in a frame of another site. */
import FramePlayer from './FramePlayer.vue'

defineProps<{ recording: string }>()
</script>

<template>
  <main class="framed"><FramePlayer :recording="recording" /></main>
</template>

<style scoped>
main.framed {
  padding: 0;
}
</style>
