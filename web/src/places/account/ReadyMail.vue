<script setup lang="ts">
/** Whether who lectures wants mail when a capture of theirs can be watched; kept at once. */
import { onMounted, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { ask } from '../../api/client'
import FaultNote from '../../parts/FaultNote.vue'
import { useForm } from '../../parts/form'

const { t } = useI18n()
const form = useForm()
const on = ref<boolean>()
const kept = ref(false)

onMounted(async () => {
  on.value = (await form.send(() => ask((c) => c.GET('/api/account/ready'))))?.on
})

async function keep(now: boolean) {
  kept.value = await form.act(() => ask((c) => c.PUT('/api/account/ready', { body: { on: now } })))
  if (kept.value) on.value = now
}
</script>

<template>
  <h2>{{ t('ready_mail.title') }}</h2>
  <template v-if="on !== undefined">
    <el-checkbox :model-value="on" :disabled="form.busy.value" @change="(x) => keep(x === true)">{{
      t('ready_mail.on')
    }}</el-checkbox>
    <p v-if="kept" class="soft small" role="status">{{ t(on ? 'ready_mail.kept_on' : 'ready_mail.kept_off') }}</p>
  </template>
  <FaultNote v-if="form.problem.value" :error="form.problem.value" />
</template>

<style scoped>
h2 {
  margin: 24px 0 4px;
}
</style>
