<script setup lang="ts">
/** Stands where a menu of the bar will be until that is loaded; a press is not lost. */
defineEmits<{ early: [] }>()
</script>

<template>
  <span
    ><el-button text aria-haspopup="menu" @click="$emit('early')"><slot /></el-button
  ></span>
</template>
