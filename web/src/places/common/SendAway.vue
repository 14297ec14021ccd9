<script setup lang="ts">
/** Sends someone away from a door, or out, with a word to them if there is one to say. */
import { nextTick, ref } from 'vue'
import { useI18n } from 'vue-i18n'

defineProps<{ name: string; text: string; label: string; busy: boolean }>()
const emit = defineEmits<{ send: [word: string] }>()
const { t } = useI18n()
const open = ref(false)
const word = ref('')
const field = ref<{ focus: () => void }>()

async function begin() {
  open.value = true
  await nextTick()
  field.value?.focus()
}

function send() {
  emit('send', word.value.trim())
  open.value = false
  word.value = ''
}
</script>

<template>
  <template v-if="!open">
    <el-button size="small" :aria-label="label" :disabled="busy" @click="emit('send', '')">{{ text }}</el-button>
    <el-button size="small" link :aria-label="t('at_door.with_word_it', { name })" @click="begin">{{
      t('at_door.with_word')
    }}</el-button>
  </template>
  <form v-else class="send" @submit.prevent="send" @keydown.esc.prevent.stop="open = false">
    <el-input
      ref="field"
      v-model="word"
      size="small"
      maxlength="200"
      :aria-label="t('at_door.word_to', { name })"
      :placeholder="t('at_door.word_to', { name })"
    />
    <el-button size="small" native-type="submit" :disabled="busy">{{ text }}</el-button>
    <el-button size="small" link @click="open = false">{{ t('at_door.not') }}</el-button>
  </form>
</template>

<style scoped>
.send {
  display: flex;
  flex: 1 1 100%;
  gap: 8px;
  align-items: center;
  margin: 4px 0;
}
</style>
