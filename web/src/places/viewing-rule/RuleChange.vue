<script setup lang="ts">
/** What a rule changes, in people, with the names behind it. */
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'
import { useRightWords } from '../common/ruleWords'

const props = defineProps<{ change: Schemas['RuleChange']; changed: boolean; college: boolean }>()
const { t } = useI18n()
const named = computed(() => {
  const c = props.change
  return c.gain.length + c.lose.length + c.more.length + c.less.length
})
const words = useRightWords('')
</script>

<template>
  <div role="status">
    <p v-if="change.recordings === 0">
      {{ t(college ? 'rule.none_lit_college' : 'rule.none_lit', { n: change.covered, of: change.of }) }}
    </p>
    <template v-else>
      <p>
        <b>{{ t(changed ? 'rule.after' : 'rule.now', { can: change.can, of: change.of }) }}</b>
      </p>
      <p v-if="changed">
        {{ change.gain.length ? t('rule.gain', { n: change.gain.length }, change.gain.length) : t('rule.gain_none') }}
        {{ change.lose.length ? t('rule.lose', { n: change.lose.length }, change.lose.length) : t('rule.lose_none') }}
      </p>
      <template v-if="changed">
        <p v-for="x in change.less" :key="`less ${x.use}`">
          {{ t('rule.shift_less', { n: x.names.length, use: words.use(x.use) }, x.names.length) }}
        </p>
        <p v-for="x in change.more" :key="`more ${x.use}`">
          {{ t('rule.shift_more', { n: x.names.length, use: words.use(x.use) }, x.names.length) }}
        </p>
      </template>
      <details v-if="changed && named > 0">
        <summary>{{ t('rule.names') }}</summary>
        <p v-if="change.gain.length">{{ t('rule.gain_names', { names: change.gain.join(', ') }) }}</p>
        <p v-if="change.lose.length">{{ t('rule.lose_names', { names: change.lose.join(', ') }) }}</p>
        <p v-for="x in change.less" :key="`less ${x.use}`">
          {{ t('rule.less_names', { use: words.use(x.use), names: x.names.join(', ') }) }}
        </p>
        <p v-for="x in change.more" :key="`more ${x.use}`">
          {{ t('rule.more_names', { use: words.use(x.use), names: x.names.join(', ') }) }}
        </p>
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
