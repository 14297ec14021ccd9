<script setup lang="ts">
/** Who can watch more or less after a change, and do what else, with the names behind it. */
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'
import { useRightWords } from './ruleWords'

const props = defineProps<{ change: Pick<Schemas['RuleChange'], 'gain' | 'lose' | 'more' | 'less'> }>()
const { t } = useI18n()
const words = useRightWords('')
const named = computed(() => {
  const c = props.change
  return c.gain.length + c.lose.length + c.more.length + c.less.length
})
</script>

<template>
  <p>
    {{ change.gain.length ? t('rule.gain', { n: change.gain.length }, change.gain.length) : t('rule.gain_none') }}
    {{ change.lose.length ? t('rule.lose', { n: change.lose.length }, change.lose.length) : t('rule.lose_none') }}
  </p>
  <p v-for="x in change.less" :key="`less ${x.use}`">
    {{ t('rule.shift_less', { n: x.names.length, use: words.use(x.use) }, x.names.length) }}
  </p>
  <p v-for="x in change.more" :key="`more ${x.use}`">
    {{ t('rule.shift_more', { n: x.names.length, use: words.use(x.use) }, x.names.length) }}
  </p>
  <details v-if="named > 0">
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
