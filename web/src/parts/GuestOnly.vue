<script setup lang="ts">
/** A guest opened a page that is for those with an account. */
import { useI18n } from 'vue-i18n'

defineProps<{ lecture: string }>()
const { t } = useI18n()
</script>

<template>
  <section class="page only">
    <h1>{{ t('guest_only.title') }}</h1>
    <p>{{ t('guest_only.text') }}</p>
    <el-button tag="router-link" type="primary" :to="{ name: 'lecture', params: { lecture } }">{{
      t('guest_only.go')
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
