<script setup lang="ts">
/** What was just done, and the way back. */
import { ref } from 'vue'
import { useI18n } from 'vue-i18n'
import FaultNote from './FaultNote.vue'

const props = defineProps<{ text: string; undo: () => Promise<unknown> }>()
const emit = defineEmits<{ undone: [] }>()
const { t } = useI18n()
const state = ref<'done' | 'busy' | 'undone'>('done')
const fault = ref<unknown>()

async function back() {
  state.value = 'busy'
  fault.value = undefined
  try {
    await props.undo()
    state.value = 'undone'
    emit('undone')
  } catch (e) {
    fault.value = e
    state.value = 'done'
  }
}
</script>

<template>
  <div class="undo" role="status">
    <p>
      {{ state === 'undone' ? t('undone') : text }}
      <el-button v-if="state !== 'undone'" link :disabled="state === 'busy'" @click="back">
        {{ t('undo') }}
      </el-button>
    </p>
    <FaultNote v-if="fault" :error="fault" />
  </div>
</template>

<style scoped>
.undo {
  margin: 10px 0;
  padding: 8px 12px;
  border-inline-start: 3px solid var(--kelp);
  background: var(--kelp-soft);
}

p {
  margin: 0;
}
</style>
