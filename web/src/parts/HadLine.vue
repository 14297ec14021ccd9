<script setup lang="ts">
/** What someone has of a lecture, on a line: thin where they followed it live, full where they watched it, open where
 * they miss it. */
import type { Stretch } from './kept'

const props = defineProps<{
  /** In milliseconds, as the stretches are. */
  length: number
  attended?: Stretch[]
  watched?: Stretch[]
  missed?: Stretch[]
}>()
const share = (ms: number) => `${(Math.min(ms, props.length) / Math.max(1, props.length)) * 100}%`
const at = (s: Stretch) => ({ left: share(s.start), width: share(s.end - s.start) })
</script>

<template>
  <span class="had" dir="ltr">
    <i v-for="s in attended" :key="`a${s.start}`" class="attended" :style="at(s)" />
    <i v-for="s in missed" :key="`m${s.start}`" class="missed" :style="at(s)" />
    <i v-for="s in watched" :key="`w${s.start}`" class="watched" :style="at(s)" />
  </span>
</template>

<style scoped>
.had {
  position: relative;
  display: block;
  height: 14px;
  background: linear-gradient(var(--rule-strong), var(--rule-strong)) center / 100% 1px no-repeat;
}

i {
  position: absolute;
  min-width: 2px;
}

.attended {
  top: 5px;
  height: 4px;
  background: var(--ink-3);
}

.watched {
  top: 2px;
  height: 10px;
  background: var(--kelp);
}

.missed {
  top: 2px;
  height: 10px;
  border: 1.5px solid var(--kelp);
  background: var(--shell);
}
</style>
