<script setup lang="ts">
import { useCountdown } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute } from 'vue-router'
import { ask, Problem } from '../../api/client'
import FaultNote from '../../parts/FaultNote.vue'
import OutsideFrame from '../../parts/OutsideFrame.vue'
import { useForm } from '../../parts/form'
import { nameTab } from '../../router'

const { t } = useI18n()
const route = useRoute()
const email = ref('')
const password = ref('')
const { busy, problem, send } = useForm()
/** For how many seconds the server looks at no other attempt. */
const { remaining, start } = useCountdown(0)
nameTab(t('sign_in.title'))

const isSlow = computed(() => problem.value instanceof Problem && problem.value.after > 0)

async function signIn() {
  const to = route.query.to
  await send(async () => {
    await ask((c) => c.POST('/api/sign-in', { body: { email: email.value, password: password.value } }))
    // Only a place of this application: an address on another host would begin with two slashes.
    // The page is loaded anew, so that nothing of someone who was signed in before is left.
    window.location.assign(typeof to === 'string' && /^\/(?![/\\])/.test(to) ? to : '/')
  })
  if (problem.value instanceof Problem && problem.value.after > 0) start(problem.value.after)
}
</script>

<template>
  <OutsideFrame>
    <form @submit.prevent="signIn">
      <h1>{{ t('sign_in.title') }}</h1>
      <p v-if="route.query.ended && !problem" class="ended" role="status">{{ t('sign_in.ended') }}</p>
      <p class="soft">{{ t('sign_in.text') }}</p>
      <label for="email">{{ t('sign_in.email') }}</label>
      <el-input id="email" v-model="email" type="email" autocomplete="username" autofocus required />
      <label for="password">{{ t('sign_in.password') }}</label>
      <el-input id="password" v-model="password" type="password" autocomplete="current-password" required />
      <p v-if="remaining > 0" class="ended" role="status">{{ t('sign_in.slow', { n: remaining }, remaining) }}</p>
      <FaultNote v-else-if="problem && !isSlow" :error="problem" />
      <div class="bar-of-acts go">
        <el-button type="primary" native-type="submit" :disabled="busy || remaining > 0">{{
          t('sign_in.go')
        }}</el-button>
        <router-link :to="{ name: 'forgotten' }">{{ t('sign_in.forgotten') }}</router-link>
      </div>
    </form>
  </OutsideFrame>
</template>

<style scoped>
label {
  display: block;
  margin: 14px 0 4px;
}

.go {
  margin-top: 22px;
}

.ended {
  margin: 10px 0;
  padding: 8px 12px;
  border-inline-start: 3px solid var(--kelp);
  background: var(--kelp-soft);
}
</style>
