<script setup lang="ts">
/** Choosing files from the computer. The same file can be chosen again after it was mended. */
import { ref } from 'vue'

defineProps<{ id: string; text: string; accept: string; multiple?: boolean }>()
const emit = defineEmits<{ files: [list: File[]] }>()
const names = ref('')

function chosen(e: Event) {
  const input = e.target as HTMLInputElement
  const list = [...(input.files ?? [])]
  input.value = ''
  if (list.length === 0) return
  names.value = list.map((f) => f.name).join(', ')
  emit('files', list)
}
</script>

<template>
  <span class="pick">
    <label class="el-button" :for="id">
      {{ text }}
      <input :id="id" type="file" :accept="accept" :multiple="multiple" @change="chosen" />
    </label>
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

label {
  position: relative;
}

label:focus-within {
  outline: 2px solid var(--kelp);
  outline-offset: 2px;
}

input {
  position: absolute;
  inset: 0;
  width: 100%;
  opacity: 0;
  cursor: pointer;
}
</style>
