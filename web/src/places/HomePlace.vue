<script setup lang="ts">
/** Sends everyone to the place where their work begins. */
import { watch } from 'vue'
import { useRouter } from 'vue-router'
import { guestHome, useMe } from '../api/me'

const router = useRouter()
const me = useMe()
watch(
  () => me.data.value,
  (who) => {
    if (!who) return
    void router.replace(guestHome(who) ?? { name: who.staff ? 'board' : 'catch-up' })
  },
  { immediate: true },
)
</script>

<template>
  <span />
</template>
