<script setup lang="ts">
/** In which language the pages speak; each by its own name. */
import { choose, languages, spoken, type Language } from './reader'

const names = Object.entries(languages) as [Language, string][]
</script>

<template>
  <ul class="plain languages small">
    <li v-for="[tag, name] in names" :key="tag" :lang="tag">
      <b v-if="tag === spoken" aria-current="true">{{ name }}</b>
      <el-button v-else link @click="choose(tag)">{{ name }}</el-button>
    </li>
  </ul>
</template>

<style scoped>
.languages {
  display: flex;
  gap: 16px;
}
</style>
