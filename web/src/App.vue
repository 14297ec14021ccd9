<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { computed, effectScope, watch, type EffectScope } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute, useRouter } from 'vue-router'
import { ask, Problem } from './api/client'
import { useEvents } from './api/events'
import { useMe } from './api/me'
import FaultNote from './parts/FaultNote.vue'
import ForgottenStart from './places/common/ForgottenStart.vue'
import GuestOnly from './parts/GuestOnly.vue'
import LanternSign from './parts/LanternSign.vue'
import WeekRibbon from './places/common/WeekRibbon.vue'
import { resumeUnsent } from './places/capture-desk/unsent'

const { t } = useI18n()
const route = useRoute()
const router = useRouter()
const client = useQueryClient()
const me = useMe()

const outside = computed(() => ['sign-in', 'welcome', 'guest', 'forgotten'].includes(String(route.name)))
const guestOf = computed(() => me.data.value?.guest_of)
const place = (name: string, key: string) => ({ name, text: t(`place.${key}`) })
const places = computed(() => {
  const who = me.data.value
  if (!who || who.guest_of) return []
  if (!who.staff) return [place('catch-up', 'catch_up'), place('dates', 'dates'), place('courses', 'courses')]
  const all = [
    place('board', 'board'),
    place('run-sheet', 'run_sheet'),
    place('capture', 'capture'),
    place('files', 'files'),
    place('playlists', 'playlists'),
    place('courses', 'courses'),
  ]
  return who.coordinator ? [...all, place('halls', 'halls'), place('people', 'people')] : all
})
/** The place to which each page within it belongs. */
const within: Record<string, string> = {
  'capture-desk': 'capture',
  playlist: 'playlists',
  rule: 'playlists',
  'trim-bench': 'board',
  watch: 'catch-up',
  course: 'courses',
  room: 'courses',
  plan: 'courses',
  timetable: 'courses',
  'course-people': 'courses',
  lecture: 'courses',
  terms: 'courses',
}
const here = (name: string) => route.name === name || within[String(route.name)] === name

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
    if (me.data.value?.staff) void resumeUnsent()
  },
  { immediate: true },
)

async function signOut() {
  await ask((c) => c.POST('/api/sign-out'))
  window.location.assign('/sign-in') // loaded anew, so that nothing of this person is left
}
</script>

<template>
  <router-view v-if="outside" />
  <template v-else-if="me.data.value">
    <a class="skip" href="#main">{{ t('frame.skip') }}</a>
    <header class="bar">
      <router-link class="mark" :to="{ name: 'home' }">
        <LanternSign state="lit" mute />
        <span>Late Lantern</span>
      </router-link>
      <nav class="places" :aria-label="t('frame.places')">
        <router-link
          v-for="p in places"
          :key="p.name"
          :to="{ name: p.name }"
          :class="{ here: here(p.name) }"
          :aria-current="here(p.name) ? 'page' : undefined"
          >{{ p.text }}</router-link
        >
      </nav>
      <div class="who">
        <span v-if="me.data.value.guest_of">{{ me.data.value.name }}</span>
        <router-link v-else :to="{ name: 'account' }" :title="t('frame.account')">{{ me.data.value.name }}</router-link>
        <el-button link @click="signOut">{{ t('frame.sign_out') }}</el-button>
      </div>
    </header>
    <WeekRibbon v-if="me.data.value.staff && route.name !== 'watch'" />
    <ForgottenStart v-if="me.data.value.staff" />
    <main id="main" tabindex="-1">
      <GuestOnly v-if="guestOf && !['home', 'lecture', 'watch'].includes(String(route.name))" :lecture="guestOf" />
      <router-view v-else />
    </main>
  </template>
  <main v-else-if="me.error.value" class="alone">
    <FaultNote :error="me.error.value" again @again="me.refetch()" />
  </main>
</template>

<style scoped>
.bar {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 0 26px;
  min-height: 54px;
  padding: 0 28px;
  background: var(--shell);
  border-bottom: 1px solid var(--rule);
}

.mark {
  display: flex;
  align-items: center;
  gap: 9px;
  color: var(--ink);
  font: 600 19px var(--serif);
  text-decoration: none;
}

.places {
  display: flex;
  gap: 22px;
}

.places a {
  padding: 15px 0 13px;
  border-bottom: 2px solid transparent;
  color: var(--ink-2);
  text-decoration: none;
}

.places a:hover {
  color: var(--ink);
}

.places a.here {
  border-color: var(--kelp);
  color: var(--ink);
}

.who {
  display: flex;
  flex-wrap: wrap;
  gap: 0 14px;
  margin-left: auto;
  color: var(--ink-2);
  font-size: 14px;
}

main {
  padding: 22px 28px;
}

main:focus {
  outline: none;
}

.skip {
  position: absolute;
  left: -999px;
  z-index: 3;
  padding: 10px 16px;
  background: var(--shell);
}

.skip:focus {
  left: 8px;
  top: 8px;
}

.alone {
  max-width: 560px;
  margin: 80px auto;
}

@media (max-width: 700px) {
  .bar {
    gap: 0 18px;
    padding: 0 16px;
  }

  main {
    padding: 16px;
  }
}
</style>
