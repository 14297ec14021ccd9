<script setup lang="ts">
/** One's own account: its password, its sessions, its feed. */
import { defineAsyncComponent, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { ask } from '../../api/client'
import { useMe } from '../../api/me'
import FaultNote from '../../parts/FaultNote.vue'
import FeedLine from '../common/FeedLine.vue'
import LanguageChoice from '../../parts/LanguageChoice.vue'
import FormText from '../../parts/FormText.vue'
import { useForm } from '../../parts/form'
import { nameTab } from '../../router'
import WishChoice from './WishChoice.vue'

const ReadyMail = defineAsyncComponent(() => import('./ReadyMail.vue'))
const { t } = useI18n()
const me = useMe()
const old = ref('')
const password = ref('')
const kept = ref(false)
const form = useForm()
const out = useForm()
nameTab(t('account.title'))

async function keep() {
  kept.value = false
  const done = await form.send(async () => {
    await ask((c) => c.PUT('/api/account/password', { body: { old: old.value, password: password.value } }))
    return true
  })
  if (!done) return
  kept.value = true
  old.value = ''
  password.value = ''
}

async function everywhere() {
  await out.send(async () => {
    await ask((c) => c.POST('/api/account/sign-out-everywhere'))
    window.location.assign('/sign-in')
  })
}
</script>

<template>
  <section v-if="me.data.value" class="narrow">
    <h1>{{ me.data.value.name }}</h1>
    <p class="soft">{{ me.data.value.email }}</p>
    <h2>{{ t('account.language') }}</h2>
    <LanguageChoice />
    <h2>{{ t('wish.title') }}</h2>
    <WishChoice />
    <ReadyMail v-if="me.data.value.staff" />
    <h2>{{ t('feed.name') }}</h2>
    <p class="soft small">{{ t('feed.own') }}</p>
    <FeedLine :of="{ kind: 'own' }" />
    <h2>{{ t('account.password') }}</h2>
    <form @submit.prevent="keep">
      <FormText
        v-model="old"
        :label="t('account.old')"
        :fault="form.fields.value.old"
        type="password"
        autocomplete="current-password"
      />
      <FormText
        v-model="password"
        :label="t('account.new')"
        :fault="form.fields.value.password"
        :help="t('account.how')"
        type="password"
        autocomplete="new-password"
      />
      <FaultNote v-if="form.whole.value" :error="form.whole.value" />
      <p v-if="kept" role="status">{{ t('account.kept') }}</p>
      <el-button type="primary" native-type="submit" :disabled="form.busy.value">{{ t('account.keep') }}</el-button>
    </form>
    <h2>{{ t('account.everywhere') }}</h2>
    <p class="soft">{{ t('account.everywhere_help') }}</p>
    <FaultNote v-if="out.problem.value" :error="out.problem.value" />
    <el-button :disabled="out.busy.value" @click="everywhere">
      {{ t('account.everywhere_do') }}
    </el-button>
  </section>
</template>

<style scoped>
.narrow {
  max-width: 560px;
}

h2 {
  margin: 24px 0 4px;
}
</style>
