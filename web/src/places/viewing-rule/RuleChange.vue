<script setup lang="ts">
/** What a rule changes, in people, with the names behind it. */
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'
import WhoChanges from '../common/WhoChanges.vue'

defineProps<{ change: Schemas['RuleChange']; changed: boolean; college: boolean }>()
const { t } = useI18n()
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
      <WhoChanges v-if="changed" :change="change" />
    </template>
  </div>
</template>

<style scoped>
p {
  margin-bottom: 4px;
}
</style>
