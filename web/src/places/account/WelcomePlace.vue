<script setup lang="ts">
/** Where the address in a letter leads: choose a password, and one is in. */
import { onMounted, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { ask, type Schemas } from '../../api/client'
import FaultNote from '../../parts/FaultNote.vue'
import FormText from '../../parts/FormText.vue'
import { useForm } from '../../parts/form'
import { nameTab } from '../../router'
import OutsideFrame from '../../parts/OutsideFrame.vue'

const props = defineProps<{ letter: string }>()
const { t } = useI18n()
const who = ref<Schemas['Welcome']>()
const password = ref('')
const opening = useForm()
const { busy, fields, whole, send } = useForm()
nameTab(t('welcome.title'))
const at = { params: { path: { key: props.letter } } }

onMounted(async () => {
  who.value = await opening.send(() => ask((c) => c.GET('/api/welcome/{key}', at)))
})

async function activate() {
  const done = await send(() => ask((c) => c.POST('/api/welcome/{key}', { ...at, body: { password: password.value } })))
  if (done) window.location.assign('/')
}
</script>

<template>
  <OutsideFrame>
    <h1>{{ t('welcome.title') }}</h1>
    <template v-if="opening.problem.value">
      <FaultNote :error="opening.problem.value" />
      <router-link :to="{ name: 'forgotten' }">{{ t('sign_in.forgotten') }}</router-link>
    </template>
    <form v-if="who" @submit.prevent="activate">
      <p>{{ t('welcome.text', { name: who.name }) }}</p>
      <p class="soft">{{ who.email }}</p>
      <el-input
        class="away"
        type="email"
        autocomplete="username"
        :model-value="who.email"
        readonly
        tabindex="-1"
        aria-hidden="true"
      />
      <FormText
        v-model="password"
        :label="t('account.new')"
        :fault="fields.password"
        :help="t('account.how')"
        type="password"
        size="wide"
        autocomplete="new-password"
        autofocus
      />
      <FaultNote v-if="whole" :error="whole" />
      <el-button type="primary" native-type="submit" :disabled="busy">{{ t('welcome.go') }}</el-button>
    </form>
  </OutsideFrame>
</template>
