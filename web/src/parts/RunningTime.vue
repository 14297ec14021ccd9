<script setup lang="ts">
/** How long something has been running, ticking. */
import { onScopeDispose, ref } from 'vue'
import { collegeNow } from './clock'
import { timecode } from './time'

defineProps<{ since: string }>()
const now = ref(collegeNow())
const timer = window.setInterval(() => (now.value = collegeNow()), 500)
onScopeDispose(() => window.clearInterval(timer))
</script>

<template>
  <span>{{ timecode(now - Date.parse(since)) }}</span>
</template>
