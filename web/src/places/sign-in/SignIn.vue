<script setup lang="ts">
import { ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute } from 'vue-router'
import { ask } from '../../api/client'
import FaultNote from '../../parts/FaultNote.vue'
import LanternSign from '../../parts/LanternSign.vue'
import { nameTab } from '../../router'

const { t } = useI18n()
const route = useRoute()
const email = ref('')
const password = ref('')
const fault = ref<unknown>()
const busy = ref(false)
nameTab(t('sign_in.title'))

async function signIn() {
  busy.value = true
  fault.value = undefined
  try {
    await ask((c) => c.POST('/api/sign-in', { body: { email: email.value, password: password.value } }))
    const to = route.query.to
    // Only a place of this application: an address on another host would begin with two slashes.
    // The page is loaded anew, so that nothing of someone who was signed in before is left.
    window.location.assign(typeof to === 'string' && /^\/(?![/\\])/.test(to) ? to : '/')
  } catch (e) {
    fault.value = e
    busy.value = false
  }
}
</script>

<template>
  <main class="door">
    <form class="page" @submit.prevent="signIn">
      <p class="mark"><LanternSign state="lit" mute :size="34" /> Late Lantern</p>
      <h1>{{ t('sign_in.title') }}</h1>
      <p class="soft">{{ t('sign_in.text') }}</p>
      <label for="email">{{ t('sign_in.email') }}</label>
      <el-input id="email" v-model="email" type="email" autocomplete="username" autofocus required />
      <label for="password">{{ t('sign_in.password') }}</label>
      <el-input id="password" v-model="password" type="password" autocomplete="current-password" required />
      <FaultNote v-if="fault" :error="fault" />
      <div class="bar-of-acts go">
        <button class="act" type="submit" :disabled="busy">{{ t('sign_in.go') }}</button>
        <router-link :to="{ name: 'forgotten' }">{{ t('sign_in.forgotten') }}</router-link>
      </div>
    </form>
  </main>
</template>

<style scoped>
.door {
  display: grid;
  min-height: 100vh;
  padding: 16px;
  place-items: center;
}

form {
  width: min(400px, 100%);
  padding: 28px 32px 32px;
}

.mark {
  display: flex;
  align-items: center;
  gap: 10px;
  margin-bottom: 22px;
  font: 600 20px var(--serif);
}

label {
  display: block;
  margin: 14px 0 4px;
}

.go {
  margin-top: 22px;
}
</style>
