<script setup lang="ts">
import { ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute } from 'vue-router'
import { ask } from '../../api/client'
import FaultNote from '../../parts/FaultNote.vue'
import OutsideFrame from '../../parts/OutsideFrame.vue'
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
  <OutsideFrame>
    <form @submit.prevent="signIn">
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
</style>
