<script setup lang="ts">
/** What the college says to everyone who is captured. */
import { useQueryClient } from '@tanstack/vue-query'
import { ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { keys, setCollege, useCollege } from '../../api/queries'
import FaultNote from '../../parts/FaultNote.vue'
import FormText from '../../parts/FormText.vue'
import { useForm } from '../../parts/form'
import { useUnsent } from '../../parts/unsent'

const { t } = useI18n()
const client = useQueryClient()
const college = useCollege()
const { busy, fields, whole, send } = useForm()
const text = ref('')
const kept = ref(false)
watch(
  () => college.data.value?.capture_notice,
  (n) => (text.value = n ?? ''),
  { immediate: true },
)

useUnsent(
  () => !!college.data.value && !kept.value && text.value !== college.data.value.capture_notice,
  () => t('leave_unsent'),
)

async function keep() {
  const sent = async () => {
    await setCollege({ capture_notice: text.value })
    return true
  }
  kept.value = (await send(sent)) ?? false
  if (kept.value) void client.invalidateQueries({ queryKey: keys.college })
}
</script>

<template>
  <h2>{{ t('notice.college') }}</h2>
  <form class="page" @submit.prevent="keep">
    <FormText
      v-model="text"
      :label="t('notice.college')"
      :help="t('notice.college_hint')"
      :fault="fields.capture_notice"
      size="wide"
      @input="kept = false"
    />
    <FaultNote v-if="whole" :error="whole" />
    <div class="bar-of-acts">
      <el-button type="primary" native-type="submit" :disabled="busy">{{ t('keep') }}</el-button>
      <span role="status">{{ kept ? t('notice.kept') : '' }}</span>
    </div>
  </form>
</template>

<style scoped>
h2 {
  margin: 18px 0 6px;
}

.bar-of-acts {
  margin-top: 12px;
}
</style>
