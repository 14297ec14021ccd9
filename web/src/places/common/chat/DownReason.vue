<script setup lang="ts">
/** Why a line was taken down, for the record; it can be left open. */
import { ref } from 'vue'
import { useI18n } from 'vue-i18n'

const emit = defineEmits<{ why: [text: string] }>()
const { t } = useI18n()
const why = ref('')
</script>

<template>
  <form class="bar-of-acts" @submit.prevent="why.trim() && emit('why', why.trim())">
    <el-input v-model="why" size="small" :maxlength="200" :placeholder="t('chat.why')" :aria-label="t('chat.why')" />
    <el-button size="small" native-type="submit" :disabled="!why.trim()">{{ t('chat.why_keep') }}</el-button>
  </form>
</template>

<style scoped>
.el-input {
  flex: 1;
}
</style>
