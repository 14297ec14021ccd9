<script setup lang="ts">
/** A sheet from the right, over the view it belongs to. */
import { useI18n } from 'vue-i18n'

defineProps<{ open: boolean; title: string; wide?: boolean }>()
const emit = defineEmits<{ close: [] }>()
const { t } = useI18n()
</script>

<template>
  <el-drawer
    :model-value="open"
    direction="rtl"
    :size="wide ? 'min(720px, 100vw)' : 'min(460px, 100vw)'"
    :title="title"
    :with-header="false"
    append-to-body
    destroy-on-close
    @close="emit('close')"
  >
    <div class="head">
      <h2>{{ title }}</h2>
      <el-button :aria-label="t('close')" @click="emit('close')">
        <svg width="14" height="14" viewBox="0 0 14 14" aria-hidden="true">
          <path d="M2 2l10 10M12 2L2 12" stroke="currentColor" stroke-width="1.8" />
        </svg>
      </el-button>
    </div>
    <slot />
  </el-drawer>
</template>

<style scoped>
.head {
  display: flex;
  gap: 16px;
  align-items: flex-start;
  justify-content: space-between;
  margin: 8px 0 10px;
}

.el-button {
  min-width: 36px;
  padding: 8px;
}
</style>
