<script setup lang="ts">
/** The viewing rule that holds in every course without one. */
import { useI18n } from 'vue-i18n'
import { nameTab } from '../../router'
import RuleHeld from './RuleHeld.vue'

const { t } = useI18n()
nameTab(t('rule.college'))
</script>

<template>
  <h1>{{ t('rule.college') }}</h1>
  <RuleHeld :scope="{ course: '' }" back="" />
</template>
