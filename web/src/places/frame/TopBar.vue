<script setup lang="ts">
/** The bar over every page: the places of one's part, what is looked for by name, and oneself. */
import { useEventListener } from '@vueuse/core'
import { computed, defineAsyncComponent, ref, useTemplateRef } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute, useRouter } from 'vue-router'
import { ask } from '../../api/client'
import { guestHome, useMe } from '../../api/me'
import FaultNote from '../../parts/FaultNote.vue'
import { useForm } from '../../parts/form'
import LanternSign from '../../parts/LanternSign.vue'
import BarButton from './BarButton.vue'
import { usePlaces } from './places'

/** They are loaded once the page stands. */
const FindPlace = defineAsyncComponent(() => import('./FindPlace.vue'))
const NewsPlace = defineAsyncComponent(() => import('./NewsPlace.vue'))
const BarMenu = defineAsyncComponent({
  loader: () => import('./BarMenu.vue'),
  loadingComponent: BarButton,
  delay: 0,
})
const { t } = useI18n()
const route = useRoute()
const router = useRouter()
const me = useMe()
/** Guests have no places but what they were given a link to. */
const guest = computed(() => guestHome(me.data.value) !== undefined)
const staff = computed(() => me.data.value?.staff || me.data.value?.coordinator)
const { places, here } = usePlaces()
/** Which menu was pressed before it was loaded. */
const early = ref('')
const own = computed(() => [
  ...(staff.value ? [{ name: 'sight', text: t('frame.sight') }] : []),
  ...(guest.value ? [] : [{ name: 'account', text: t('frame.account') }]),
  { name: 'sign-out', text: t('frame.sign_out') },
])
const finding = ref(false)
const find = useTemplateRef<{ enter(): void }>('find')

/** look has one enter what is looked for: at once, or as soon as the place for it is loaded. */
function look() {
  if (find.value) find.value.enter()
  else finding.value = true
}

const typing = (e: EventTarget | null) =>
  e instanceof HTMLElement && (e.isContentEditable || e.matches('input, textarea, select, [role="combobox"]'))

useEventListener(document, 'keydown', (e) => {
  if (guest.value || e.key !== '/' || e.ctrlKey || e.metaKey || e.altKey || typing(e.target)) return
  if ([...document.querySelectorAll('[role="dialog"]')].some((d) => d.checkVisibility())) return
  e.preventDefault()
  look()
})

const out = useForm()
async function signOut() {
  await out.send(async () => {
    await ask((c) => c.POST('/api/sign-out'))
    window.location.assign('/sign-in') // loaded anew, so that nothing of this person is left
  })
}

function act(name: string) {
  const { course } = route.params
  if (name === 'sign-out') void signOut()
  else if (name === 'sight') void router.push(course ? { name, params: { course } } : { name: 'sight-choose' })
  else void router.push({ name })
}
</script>

<template>
  <header class="bar" :class="{ finding }">
    <router-link class="mark" :to="{ name: 'home' }">
      <LanternSign state="lit" mute />
      <span>Late Lantern</span>
    </router-link>
    <nav class="places" :aria-label="t('frame.places')">
      <router-link
        v-for="p in places"
        :key="p.name"
        :to="{ name: p.name }"
        :class="{ here: p.here }"
        :aria-current="p.here ? 'page' : undefined"
        >{{ p.text }}</router-link
      >
    </nav>
    <BarMenu
      v-if="places.length > 0"
      class="few"
      :items="places"
      :opened="early === 'few'"
      @act="act"
      @early="early = 'few'"
      >{{ here?.text ?? t('frame.places') }} <span class="down" aria-hidden="true"
    /></BarMenu>
    <span class="gap" />
    <template v-if="!guest">
      <el-button class="look" text :aria-label="t('find.name')" @click="look">
        <svg viewBox="0 0 16 16" aria-hidden="true">
          <circle cx="6.5" cy="6.5" r="4.5" />
          <path d="m10 10 4.5 4.5" />
        </svg>
      </el-button>
      <div class="find-room"><FindPlace ref="find" v-model:open="finding" /></div>
      <NewsPlace v-if="me.data.value" />
    </template>
    <BarMenu class="oneself" :items="own" :opened="early === 'oneself'" @act="act" @early="early = 'oneself'"
      ><span class="name">{{ me.data.value?.name }}</span> <span class="down" aria-hidden="true"
    /></BarMenu>
  </header>
  <FaultNote v-if="out.problem.value" :error="out.problem.value" />
</template>

<style scoped>
.bar {
  display: flex;
  align-items: center;
  gap: 0 22px;
  min-height: 54px;
  padding: 0 28px;
  background: var(--shell);
  border-bottom: 1px solid var(--rule);
}

.mark {
  display: flex;
  flex: none;
  align-items: center;
  gap: 9px;
  color: var(--ink);
  font: 600 19px var(--serif);
  text-decoration: none;
  white-space: nowrap;
}

.places {
  display: flex;
  gap: 20px;
}

.places a {
  padding: 15px 0 13px;
  border-bottom: 2px solid transparent;
  color: var(--ink-2);
  text-decoration: none;
  white-space: nowrap;
}

.places a:hover {
  color: var(--ink);
}

.places a.here {
  border-color: var(--kelp);
  color: var(--ink);
}

.gap {
  flex: 1;
}

.find-room {
  flex: 0 1 230px;
  min-width: 90px;
}

.oneself {
  flex: none;
}

.oneself .name {
  overflow: hidden;
  max-width: 150px;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.down {
  width: 7px;
  height: 7px;
  margin: -4px 2px 0;
  border: solid var(--ink-2);
  border-width: 0 1.5px 1.5px 0;
  transform: rotate(45deg);
}

.few,
.look {
  display: none;
}

.look svg {
  width: 18px;
  fill: none;
  stroke: var(--ink);
  stroke-width: 1.6;
  stroke-linecap: round;
}

@media (max-width: 1500px) {
  .bar {
    gap: 0 12px;
    padding: 0 20px 0 28px;
  }

  .places {
    gap: 14px;
  }
}

/* Only beside all the places of who coordinates there is little room for their name. */
@media (min-width: 1261px) and (max-width: 1500px) {
  .bar:has(.places a:nth-child(8)) .oneself .name {
    max-width: 100px;
  }
}

@media (max-width: 1260px) {
  .places {
    display: none;
  }

  .few {
    display: inline-flex;
  }
}

@media (max-width: 700px) {
  .bar {
    gap: 0 6px;
    min-height: 50px;
    padding: 0 12px;
  }

  .bar:not(.finding) .find-room {
    display: none;
  }

  /* Its name is still read out: it is what the sign leads to. */
  .mark > span:last-child {
    position: absolute;
    width: 1px;
    height: 1px;
    overflow: hidden;
    clip-path: inset(50%);
  }

  .look {
    display: inline-flex;
  }

  .oneself .name {
    max-width: min(110px, 15vw);
  }

  .finding > :not(.find-room) {
    display: none;
  }

  .finding .find-room {
    flex: 1;
    min-width: 0;
  }
}

@media print {
  .bar {
    display: none;
  }
}
</style>
