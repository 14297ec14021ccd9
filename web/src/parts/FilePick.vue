<script setup lang="ts">
/** Choosing files from the computer, and which they are. */
import { ref } from 'vue'
import { useChoosing } from './choosing'

const props = defineProps<{ text: string; accept: string; multiple?: boolean }>()
const emit = defineEmits<{ files: [list: File[]] }>()
const names = ref('')
const choose = useChoosing(
  () => props.accept,
  props.multiple,
  (list) => {
    names.value = list.map((f) => f.name).join(', ')
    emit('files', list)
  },
)
</script>

<template>
  <span class="pick">
    <el-button @click="choose">{{ text }}</el-button>
    <span class="soft">{{ names }}</span>
  </span>
</template>

<style scoped>
.pick {
  display: inline-flex;
  flex-wrap: wrap;
  gap: 4px 12px;
  align-items: center;
}
</style>
