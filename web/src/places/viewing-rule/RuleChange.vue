<script setup lang="ts">
/** What a rule changes, in people, with the names behind it. */
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'

const props = defineProps<{ change: Schemas['RuleChange']; changed: boolean }>()
const { t } = useI18n()
const named = computed(() => {
  const c = props.change
  return c.gain.length + c.lose.length + c.take_less.length + c.take_more.length
})
</script>

<template>
  <div role="status">
    <p v-if="change.recordings === 0">{{ t('rule.none_lit', { n: change.covered, of: change.of }) }}</p>
    <template v-else>
      <p>
        <b>{{ t(changed ? 'rule.after' : 'rule.now', { can: change.can, of: change.of }) }}</b>
      </p>
      <p v-if="changed">
        {{ change.gain.length ? t('rule.gain', { n: change.gain.length }, change.gain.length) : t('rule.gain_none') }}
        {{ change.lose.length ? t('rule.lose', { n: change.lose.length }, change.lose.length) : t('rule.lose_none') }}
      </p>
      <p v-if="changed && change.take_less.length">
        {{ t('rule.take_less', { n: change.take_less.length }, change.take_less.length) }}
      </p>
      <p v-if="changed && change.take_more.length">
        {{ t('rule.take_more', { n: change.take_more.length }, change.take_more.length) }}
      </p>
      <details v-if="changed && named > 0">
        <summary>{{ t('rule.names') }}</summary>
        <p v-if="change.gain.length">{{ t('rule.gain_names', { names: change.gain.join(', ') }) }}</p>
        <p v-if="change.lose.length">{{ t('rule.lose_names', { names: change.lose.join(', ') }) }}</p>
        <p v-if="change.take_less.length">{{ t('rule.take_less_names', { names: change.take_less.join(', ') }) }}</p>
        <p v-if="change.take_more.length">{{ t('rule.take_more_names', { names: change.take_more.join(', ') }) }}</p>
      </details>
    </template>
  </div>
</template>

<style scoped>
summary {
  min-height: 24px;
  color: var(--kelp);
  cursor: pointer;
}

p {
  margin-bottom: 4px;
}
</style>
