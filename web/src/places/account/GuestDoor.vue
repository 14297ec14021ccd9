<script setup lang="ts">
/** Where the link of a guest leads: to the one lecture it is for, if it still holds. */
import { onMounted } from 'vue'
import { useI18n } from 'vue-i18n'
import { ask } from '../../api/client'
import FaultNote from '../../parts/FaultNote.vue'
import { useForm } from '../../parts/form'
import { nameTab } from '../../router'
import OutsideFrame from '../../parts/OutsideFrame.vue'

const props = defineProps<{ letter: string }>()
const { t } = useI18n()
const { problem, send } = useForm()
nameTab(t('guest.title'))

onMounted(() =>
  send(async () => {
    const got = await ask((c) => c.POST('/api/guest/{key}', { params: { path: { key: props.letter } } }))
    window.location.replace(`/lectures/${got.lecture_id}`) // loaded anew, as the guest
  }),
)
</script>

<template>
  <OutsideFrame>
    <h1>{{ t('guest.title') }}</h1>
    <FaultNote v-if="problem" :error="problem" :missing="t('guest.over')" />
    <p v-else role="status">{{ t('guest.opening') }}</p>
  </OutsideFrame>
</template>
