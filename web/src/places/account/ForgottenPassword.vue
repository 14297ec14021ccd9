<script setup lang="ts">
import { ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { ask } from '../../api/client'
import FaultNote from '../../parts/FaultNote.vue'
import FormText from '../../parts/FormText.vue'
import { useForm } from '../../parts/form'
import { nameTab } from '../../router'
import OutsideFrame from '../../parts/OutsideFrame.vue'

const { t } = useI18n()
const email = ref('')
const sent = ref(false)
const { busy, problem, send } = useForm()
nameTab(t('sign_in.forgotten'))

async function go() {
  await send(async () => {
    await ask((c) => c.POST('/api/forgotten', { body: { email: email.value } }))
    sent.value = true
  })
}
</script>

<template>
  <OutsideFrame>
    <h1>{{ t('sign_in.forgotten') }}</h1>
    <p v-if="sent" role="status">{{ t('forgotten.sent') }}</p>
    <form v-else @submit.prevent="go">
      <p class="soft">{{ t('forgotten.text') }}</p>
      <FormText v-model="email" :label="t('sign_in.email')" type="email" size="wide" autocomplete="username" required />
      <FaultNote v-if="problem" :error="problem" />
      <el-button type="primary" native-type="submit" :disabled="busy">{{ t('forgotten.go') }}</el-button>
    </form>
    <p class="back">
      <router-link :to="{ name: 'sign-in' }">{{ t('sign_in.title') }}</router-link>
    </p>
  </OutsideFrame>
</template>

<style scoped>
.back {
  margin: 18px 0 0;
}
</style>
