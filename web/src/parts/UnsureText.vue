<script setup lang="ts">
/** A line of captions, with the words of which their captioner was hardly sure. */
import { computed } from 'vue'

const props = defineProps<{ text: string; unsure?: number[] }>()
/** Words and what stands between them, by turns. */
const parts = computed(() => props.text.split(/(\s+)/))
</script>

<template>
  <template v-if="!unsure?.length">{{ text }}</template>
  <template v-for="(p, n) in parts" v-else :key="n"
    ><span v-if="n % 2 === 0 && unsure.includes(n / 2)" class="unsure">{{ p }}</span
    ><template v-else>{{ p }}</template></template
  >
</template>

<style scoped>
.unsure {
  text-decoration: underline dotted 2px var(--edge);
  text-underline-offset: 3px;
}
</style>
