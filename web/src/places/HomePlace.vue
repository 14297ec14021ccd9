<script setup lang="ts">
/** Sends everyone to the place where their work begins. */
import { watch } from 'vue'
import { useRouter } from 'vue-router'
import { useMe } from '../api/me'

const router = useRouter()
const me = useMe()
watch(
  () => me.data.value,
  (who) => {
    if (!who) return
    if (who.guest_of) void router.replace({ name: 'lecture', params: { lecture: who.guest_of } })
    else if (who.link_to) void router.replace({ name: 'watch', params: { recording: who.link_to } })
    else void router.replace({ name: who.staff ? 'board' : 'catch-up' })
  },
  { immediate: true },
)
</script>

<template>
  <span />
</template>
