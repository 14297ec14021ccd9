<script setup lang="ts">
import { useI18n } from 'vue-i18n'
import type { Check } from './checks'

defineProps<{ checks: Check[] }>()
const { t, te } = useI18n()
const sign = { good: '✓', wait: '…', bad: '!' }
</script>

<template>
  <ul class="plain" :aria-label="t('desk.checks')">
    <li v-for="c in checks" :key="c.name" :class="c.state">
      <span class="sign" role="img" :aria-label="t(`check_state.${c.state}`)">{{ sign[c.state] }}</span>
      <div>
        {{ t(`check.${c.words}`, c.values ?? {}) }}
        <div v-if="c.state !== 'good' && te(`check_help.${c.words}`)" class="soft small">
          {{ t(`check_help.${c.words}`) }}
        </div>
      </div>
    </li>
  </ul>
</template>

<style scoped>
li {
  display: grid;
  grid-template-columns: 26px 1fr;
  padding: 7px 0;
  border-bottom: 1px solid var(--rule);
}

.sign {
  font-weight: 700;
  color: var(--kelp);
}

.wait .sign {
  color: var(--ink-3);
}

.bad .sign {
  color: var(--tally);
}
</style>
