<script setup lang="ts">
/** A guest opened a page that is for those with an account. */
import { useI18n } from 'vue-i18n'

const props = defineProps<{ to: { name: string; params: Record<string, string> } }>()
const { t } = useI18n()
const words: Record<string, [string, string]> = {
  watch: ['link.only', 'link.to'],
  linked: ['link.only_list', 'link.to_list'],
}
const [only, go] = words[props.to.name] ?? ['guest_only.text', 'guest_only.go']
</script>

<template>
  <section class="page only">
    <h1>{{ t('guest_only.title') }}</h1>
    <p>{{ t(only) }}</p>
    <el-button tag="router-link" type="primary" :to="to">{{ t(go) }}</el-button>
  </section>
</template>

<style scoped>
.only {
  max-width: 640px;
  margin: 40px auto;
  padding: 28px 32px;
}
</style>
