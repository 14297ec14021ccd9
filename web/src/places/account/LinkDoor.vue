<script setup lang="ts">
/** Where a link for outsiders leads: it asks for what is needed, and tells nothing of the recording before. */
import { onMounted, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { askLink, comeByLink } from '../../api/openings'
import type { Schemas } from '../../api/client'
import FaultNote from '../../parts/FaultNote.vue'
import FormText from '../../parts/FormText.vue'
import OutsideFrame from '../../parts/OutsideFrame.vue'
import { useForm } from '../../parts/form'
import { nameTab } from '../../router'

const props = defineProps<{ letter: string }>()
const { t } = useI18n()
const { problem, whole, fields, busy, send } = useForm()
const door = ref<Schemas['LinkDoor']>()
const name = ref('')
const phrase = ref('')
nameTab(t('link.title'))

onMounted(async () => {
  door.value = await send(() => askLink(props.letter))
})

async function come() {
  const got = await send(() => comeByLink(props.letter, { name: name.value, phrase: phrase.value }))
  // Loaded anew, as the guest.
  if (got) window.location.replace(got.opening_id ? `/linked/${got.opening_id}` : `/watch/${got.recording_id}`)
}
</script>

<template>
  <OutsideFrame>
    <h1>{{ t('link.title') }}</h1>
    <template v-if="door">
      <p>{{ t('link.text') }}</p>
      <form novalidate @submit.prevent="come">
        <FormText v-if="door.name" v-model="name" :label="t('link.name')" :fault="fields.name" autocomplete="name" />
        <FormText
          v-if="door.phrase"
          v-model="phrase"
          :label="t('link.phrase')"
          :fault="fields.phrase"
          type="password"
          autocomplete="off"
        />
        <FaultNote v-if="whole" :error="whole" />
        <el-button type="primary" native-type="submit" :disabled="busy">{{ t('link.go') }}</el-button>
      </form>
    </template>
    <FaultNote v-else-if="problem" :error="problem" />
    <p v-else role="status">{{ t('link.opening') }}</p>
  </OutsideFrame>
</template>
