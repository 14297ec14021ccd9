<script setup lang="ts">
/** A menu of the bar: places, or what one does for oneself. */
import { onMounted, useTemplateRef } from 'vue'

const props = defineProps<{
  items: { name: string; text: string; here?: boolean }[]
  /** It was pressed before it was here. */
  opened: boolean
}>()
defineEmits<{ act: [name: string] }>()
const menu = useTemplateRef<{ handleOpen(): void }>('menu')
onMounted(() => props.opened && menu.value?.handleOpen())
</script>

<template>
  <el-dropdown ref="menu" trigger="click" @command="(name: string) => $emit('act', name)">
    <el-button text><slot /></el-button>
    <template #dropdown>
      <el-dropdown-menu>
        <el-dropdown-item v-for="i in items" :key="i.name" :command="i.name">
          <b v-if="i.here">{{ i.text }}</b>
          <template v-else>{{ i.text }}</template>
        </el-dropdown-item>
      </el-dropdown-menu>
    </template>
  </el-dropdown>
</template>
