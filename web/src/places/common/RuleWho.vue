<script setup lang="ts">
/** For whom of a course a rule is: everyone, or some of its groups. */
import { useI18n } from 'vue-i18n'
import type { Rule } from '../../api/rules'

const rule = defineModel<Rule>({ required: true })
const props = defineProps<{ course: string; groups: string[] }>()
const { t } = useI18n()

function toggle(g: string, on: boolean) {
  const groups = props.groups.filter((x) => (x === g ? on : rule.value.groups.includes(x)))
  rule.value = { ...rule.value, audience: 'groups', groups }
}
</script>

<template>
  <el-radio
    :model-value="rule.audience"
    value="everyone"
    @update:model-value="rule = { ...rule, audience: 'everyone', groups: [] }"
  >
    {{ t('rule.everyone', { course }) }}
  </el-radio>
  <span v-if="groups.length > 0" class="soft">{{ t('rule.or_only') }}</span>
  <el-checkbox
    v-for="g in groups"
    :key="g"
    :model-value="rule.audience === 'groups' && rule.groups.includes(g)"
    @update:model-value="(on: string | number | boolean) => toggle(g, on === true)"
  >
    {{ t('rule.only_group', { group: g }) }}
  </el-checkbox>
  <p v-if="groups.length === 0" class="soft small">{{ t('rule.groups_none') }}</p>
</template>
