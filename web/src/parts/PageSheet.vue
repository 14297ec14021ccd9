<script setup lang="ts">
/** A sheet from the right, over the view it belongs to. */
const props = defineProps<{ open: boolean; title: string }>()
const emit = defineEmits<{ close: [] }>()
</script>

<template>
  <el-drawer
    :model-value="props.open"
    direction="rtl"
    size="min(460px, 100vw)"
    :title="title"
    append-to-body
    destroy-on-close
    @close="emit('close')"
  >
    <template #header="{ titleId }">
      <h2 :id="titleId">{{ title }}</h2>
    </template>
    <slot />
  </el-drawer>
</template>
