<script setup lang="ts">
/** A closed door says why, and what to do; it shows nothing of what is behind it. */
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Problem } from '../../api/client'
import { say } from '../../messages/said'
import LanternSign from '../../parts/LanternSign.vue'

const props = defineProps<{ problem: Problem }>()
const { t, te } = useI18n()
const reason = computed(() => /^(?:door|doorway)\.(.*)/.exec(props.problem.kind)?.[1] ?? 'unknown')
const text = computed(() => say({ code: props.problem.kind, with: props.problem.values, text: props.problem.message }))
const help = computed(() => (te(`door_help.${reason.value}`) ? t(`door_help.${reason.value}`) : ''))
</script>

<template>
  <section class="page door">
    <LanternSign state="dark" mute :size="44" />
    <div>
      <h1>{{ t(te(`door.title_${reason}`) ? `door.title_${reason}` : 'door.title') }}</h1>
      <p>{{ text }}</p>
      <p v-if="help" class="soft">{{ help }}</p>
      <el-button tag="router-link" type="primary" :to="{ name: 'home' }">{{ t('nowhere.home') }}</el-button>
    </div>
  </section>
</template>

<style scoped>
.door {
  display: flex;
  gap: 22px;
  max-width: 640px;
  margin: 40px auto;
  padding: 28px 32px;
}
</style>
