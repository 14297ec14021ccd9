<script setup lang="ts">
/** What stands in a frame where nothing is watched: one signs in beside it, or is told why a door is closed. */
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import { Problem } from '../../api/client'
import { say } from '../../messages/said'
import FaultNote from '../../parts/FaultNote.vue'
import LanternSign from '../../parts/LanternSign.vue'
import { useBeside } from './beside'

const props = defineProps<{ error: unknown; /** Where it is outside the frame. */ address: string }>()
const emit = defineEmits<{ again: [] }>()
const { t } = useI18n()
const { open, state, fault } = useBeside()
const problem = computed(() => (props.error instanceof Problem ? props.error : undefined))
const outside = computed(() => problem.value?.status === 401)
const closed = computed(() => [403, 404].includes(problem.value?.status ?? 0))
const why = computed(() => {
  const p = problem.value
  return p ? say({ code: p.kind, with: p.values, text: p.message }) : ''
})
</script>

<template>
  <section class="door">
    <LanternSign state="dark" mute :size="34" />
    <template v-if="outside">
      <h1>{{ t(state === 'beside' ? 'embed.beside' : 'embed.sign_in') }}</h1>
      <el-button type="primary" @click="open">{{ t('sign_in.go') }}</el-button>
      <p v-if="state === 'refused'" role="alert">{{ t('embed.no_window') }}</p>
      <FaultNote v-if="fault" :error="fault" />
    </template>
    <h1 v-else-if="closed">{{ why }}</h1>
    <FaultNote v-else :error="error" again @again="emit('again')" />
    <a :href="address" target="_blank" rel="noopener">{{ t('embed.open') }}</a>
  </section>
</template>

<style scoped>
.door {
  display: grid;
  min-height: 100vh;
  padding: 16px;
  gap: 10px;
  place-content: center;
  justify-items: center;
  text-align: center;
}

h1 {
  margin: 0;
  font: inherit;
}
</style>
