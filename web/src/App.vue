<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { computed, effectScope, watch, type EffectScope } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute, useRouter } from 'vue-router'
import { Problem } from './api/client'
import { useEvents } from './api/events'
import { guestHome, useMe } from './api/me'
import { ofLibrary } from './messages'
import FaultNote from './parts/FaultNote.vue'
import ForgottenStart from './places/common/ForgottenStart.vue'
import GuestOnly from './parts/GuestOnly.vue'
import TopBar from './places/frame/TopBar.vue'
import WeekRibbon from './places/common/WeekRibbon.vue'

const { t } = useI18n()
const route = useRoute()
const router = useRouter()
const client = useQueryClient()
const me = useMe()

const outside = computed(() =>
  ['sign-in', 'link', 'welcome', 'guest', 'stop', 'forgotten', 'embed', 'embed-list'].includes(String(route.name)),
)
/** To what a guest can come, and nothing else. */
const guestOf = computed(() => guestHome(me.data.value))
watch(
  [() => me.error.value, () => route.name],
  ([error, name]) => {
    // Nobody is taken from a desk that captures: it says by itself that what comes stays on this computer.
    if (name === 'capture-desk' && me.data.value) return
    // Before the first address is resolved it is not known whether it needs a sign-in.
    if (name && error instanceof Problem && error.status === 401 && !outside.value)
      void router.replace({
        name: 'sign-in',
        query: { to: route.fullPath, ended: me.data.value ? 'yes' : undefined },
      })
  },
  { immediate: true },
)

// Events are heard, and what an interrupted capture left here is sent, while someone is signed in.
let listening: EffectScope | undefined
watch(
  () => me.data.value?.id,
  (id) => {
    listening?.stop()
    listening = undefined
    if (!id) return
    listening = effectScope(true)
    listening.run(() => useEvents(client))
    if (me.data.value?.staff) void import('./places/capture-desk/unsent').then((m) => m.resumeUnsent())
  },
  { immediate: true },
)
</script>

<template>
  <el-config-provider :locale="ofLibrary">
    <router-view v-if="outside" />
    <router-view v-else-if="me.data.value && (route.name === 'embed-enter' || route.name === 'wall')" />
    <template v-else-if="me.data.value">
      <a class="skip" href="#main">{{ t('frame.skip') }}</a>
      <TopBar />
      <WeekRibbon v-if="me.data.value.staff && route.name !== 'watch'" />
      <ForgottenStart v-if="me.data.value.staff" />
      <main id="main" tabindex="-1">
        <GuestOnly
          v-if="guestOf && !['home', 'lecture', 'watch', 'linked'].includes(String(route.name))"
          :to="guestOf"
        />
        <router-view v-else />
      </main>
    </template>
    <main v-else-if="me.error.value" class="alone">
      <FaultNote :error="me.error.value" again @again="me.refetch()" />
    </main>
  </el-config-provider>
</template>

<style scoped>
main {
  padding: 22px 28px;
}

main:focus {
  outline: none;
}

.skip {
  position: absolute;
  inset-inline-start: -999px;
  z-index: 3;
  padding: 10px 16px;
  background: var(--shell);
}

.skip:focus {
  inset-inline-start: 8px;
  top: 8px;
}

.alone {
  max-width: 560px;
  margin: 80px auto;
}

@media (max-width: 700px) {
  main {
    padding: 16px;
  }
}
</style>
