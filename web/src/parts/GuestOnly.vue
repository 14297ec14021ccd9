<script setup lang="ts">
/** A guest opened a page that is for those with an account. */
import { useI18n } from 'vue-i18n'

const props = defineProps<{ to: { name: string; params: Record<string, string> } }>()
const { t } = useI18n()
</script>

<template>
  <section class="page only">
    <h1>{{ t('guest_only.title') }}</h1>
    <p>{{ t(props.to.name === 'watch' ? 'link.only' : 'guest_only.text') }}</p>
    <el-button tag="router-link" type="primary" :to="to">{{
      t(to.name === 'watch' ? 'link.to' : 'guest_only.go')
    }}</el-button>
  </section>
</template>

<style scoped>
.only {
  max-width: 640px;
  margin: 40px auto;
  padding: 28px 32px;
}
</style>
