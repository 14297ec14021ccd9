<script setup lang="ts">
/** Before someone joins a lecture that is captured, they see that it is. */
import { useI18n } from 'vue-i18n'
import type { Problem } from '../../api/client'
import { seeNotice } from '../../api/queries'
import FaultNote from '../../parts/FaultNote.vue'
import { useForm } from '../../parts/form'

const props = defineProps<{ problem: Problem }>()
const emit = defineEmits<{ seen: [] }>()
const { t } = useI18n()
const { problem: fault, act } = useForm()

async function seen() {
  if (await act(() => seeNotice(String(props.problem.values.lecture)))) emit('seen')
}
</script>

<template>
  <section class="page notice">
    <h1><span class="dot" aria-hidden="true" /> {{ t('notice.title') }}</h1>
    <p>{{ problem.message || t('notice.text') }}</p>
    <FaultNote v-if="fault" :error="fault" />
    <el-button type="primary" @click="seen">{{ t('notice.seen') }}</el-button>
  </section>
</template>

<style scoped>
.notice {
  max-width: 640px;
  margin: 40px auto;
  padding: 28px 32px;
}

h1 {
  display: flex;
  align-items: center;
  gap: 12px;
}

.dot {
  width: 15px;
  height: 15px;
  border-radius: 50%;
  background: var(--tally);
}
</style>
