<script setup lang="ts">
import { computed, ref, shallowRef, watch, watchEffect } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute } from 'vue-router'
import type { Schemas } from '../../api/client'
import { previewRule, useRule, useRuleChange } from '../../api/queries'
import FaultNote from '../../parts/FaultNote.vue'
import LanternSign from '../../parts/LanternSign.vue'
import { nameTab } from '../../router'
import CourseHead from '../common/CourseHead.vue'
import RuleChange from './RuleChange.vue'
import RuleSentence from './RuleSentence.vue'

type Rule = Schemas['RuleText']
const props = defineProps<{ course: string }>()
const { t } = useI18n()
const route = useRoute()
const page = useRule(() => props.course)
const change = useRuleChange(() => props.course)
const draft = ref<Rule>()
const before = shallowRef<{ rule: Rule | undefined }>()
const preview = shallowRef<Schemas['RuleChange']>()
const fault = ref<unknown>()

const copy = (r: Rule): Rule => ({ ...r, groups: [...r.groups] })
/** said is a rule in one way of writing: the same moment can be written in several. */
const said = (r: Rule) => {
  const at = (t: string | undefined) => (t ? Date.parse(t) : 0)
  return JSON.stringify([
    r.audience,
    r.groups,
    r.download,
    r.from,
    at(r.from_at),
    r.until,
    at(r.until_at),
    r.days_after_term,
  ])
}
const same = (a: Rule | undefined, b: Rule | undefined) => (a && b ? said(a) === said(b) : a === b)
const changed = computed(
  () => page.data.value !== undefined && (!page.data.value.set || !same(draft.value, page.data.value.rule)),
)

watch(
  () => page.data.value,
  (p, old) => {
    if (p && (!draft.value || !old || same(draft.value, old.rule))) draft.value = copy(p.rule)
  },
  { immediate: true },
)

let asked = 0
watch(
  [draft, () => page.data.value],
  async ([rule]) => {
    if (!rule) return
    const mine = ++asked
    try {
      const p = await previewRule(props.course, rule)
      if (mine !== asked) return
      preview.value = p
      fault.value = undefined
    } catch (e) {
      if (mine !== asked) return
      preview.value = undefined
      fault.value = e
    }
  },
  { deep: true, immediate: true },
)

async function keep() {
  const p = page.data.value
  if (!p || !draft.value) return
  const earlier = { rule: p.set ? copy(p.rule) : undefined }
  try {
    await change.mutateAsync(draft.value)
    before.value = earlier
  } catch (e) {
    fault.value = e
  }
}

async function undo() {
  const earlier = before.value
  if (!earlier) return
  const p = await change.mutateAsync(earlier.rule)
  before.value = undefined
  draft.value = copy(p.rule)
}

function discard() {
  if (page.data.value) draft.value = copy(page.data.value.rule)
}

const back = computed(() => (typeof route.query.for === 'string' ? route.query.for : ''))
watchEffect(() => nameTab(page.data.value ? t('rule.of', { course: page.data.value.course.code }) : ''))
</script>

<template>
  <FaultNote v-if="page.error.value && !page.data.value" :error="page.error.value" again @again="page.refetch()" />
  <CourseHead v-if="page.data.value" :course="page.data.value.course" staff />
  <section v-if="page.data.value && draft" class="page rule">
    <p v-if="!page.data.value.set" class="soft">{{ t('rule.none') }}</p>
    <RuleSentence
      v-model="draft"
      :course="page.data.value.course.code"
      :groups="page.data.value.groups"
      :zone="page.data.value.zone"
    />
    <FaultNote v-if="fault" :error="fault" />
    <div v-if="preview" class="effect">
      <LanternSign
        :state="preview.recordings === 0 || preview.can === 0 ? 'dark' : preview.can < preview.of ? 'part_lit' : 'lit'"
        :can="preview.can"
        :of="preview.of"
        mute
        :size="40"
      />
      <RuleChange :change="preview" :changed="changed" />
    </div>
    <p class="do">
      <el-button v-if="changed" type="primary" :disabled="fault !== undefined || change.isPending.value" @click="keep">
        {{ t('rule.keep') }}
      </el-button>
      <template v-else>
        <span role="status">{{ t('rule.kept') }}</span>
        <el-button v-if="before" link @click="undo">{{ t('bench.undo') }}</el-button>
        <el-button
          v-if="back"
          tag="router-link"
          type="primary"
          :to="{ name: 'trim-bench', params: { recording: back } }"
          >{{ t('rule.back') }}</el-button
        >
      </template>
      <el-button v-if="changed && page.data.value.set" link @click="discard">
        {{ t('rule.discard') }}
      </el-button>
    </p>
  </section>
</template>

<style scoped>
.rule {
  max-width: 980px;
}

h1 {
  margin-bottom: 12px;
  font: 15px var(--sans);
  color: var(--ink-2);
}

.effect {
  display: flex;
  gap: 18px;
  align-items: flex-start;
  min-height: 70px;
  margin: 20px 0;
}

.do {
  display: flex;
  flex-wrap: wrap;
  gap: 16px;
  align-items: center;
}
</style>
