<script setup lang="ts">
/** A text to be taken along, such as an address. */
import type { InputInstance } from 'element-plus'
import { ref } from 'vue'
import { useI18n } from 'vue-i18n'

const props = defineProps<{ label: string; text: string }>()
const { t } = useI18n()
const copied = ref(false)
const field = ref<InputInstance>()

async function copy() {
  try {
    await navigator.clipboard.writeText(props.text)
    copied.value = true
  } catch {
    field.value?.select() // where the clipboard is closed to pages, the text is marked to be copied by hand
  }
}
</script>

<template>
  <span class="copy">
    <el-input ref="field" class="mono" readonly :model-value="text" :aria-label="label" @focus="field?.select()" />
    <el-button @click="copy">{{ t('copy') }}</el-button>
    <span class="soft small" role="status">{{ copied ? t('copied') : '' }}</span>
  </span>
</template>

<style scoped>
.copy {
  display: flex;
  gap: 8px;
  align-items: center;
}

.el-input {
  flex: 1;
  min-width: 0;
  font-size: 13px;
}
</style>
