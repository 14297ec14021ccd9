<script setup lang="ts">
/** An answer in writing; of what was asked of a recording it can be shown to all who may watch. */
import { ref } from 'vue'
import { useI18n } from 'vue-i18n'

const props = defineProps<{ text: string; shown: boolean; later: boolean }>()
const emit = defineEmits<{ answer: [text: string, shown: boolean] }>()
const { t } = useI18n()
const text = ref(props.text)
const shown = ref(props.shown)
</script>

<template>
  <form class="answering" @submit.prevent="text.trim() && emit('answer', text, shown)">
    <el-input
      v-model="text"
      type="textarea"
      :autosize="{ minRows: 2, maxRows: 8 }"
      :aria-label="t('chat.answer_text')"
      :maxlength="2000"
    />
    <el-checkbox v-if="later" v-model="shown">{{ t('chat.show_all') }}</el-checkbox>
    <el-button native-type="submit" type="primary" size="small" :disabled="!text.trim()">{{
      t('chat.answer_send')
    }}</el-button>
  </form>
</template>

<style scoped>
.answering {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 14px;
  align-items: center;
  margin: 4px 0;
}
</style>
