<script setup lang="ts">
import { useI18n } from 'vue-i18n'
const { t } = useI18n()
</script>

<template>
  <section>
    <h1>{{ t('nowhere.title') }}</h1>
    <p class="soft">{{ t('nowhere.text') }}</p>
    <el-button tag="router-link" type="primary" :to="{ name: 'home' }">{{ t('nowhere.home') }}</el-button>
  </section>
</template>
