<script setup lang="ts">
/** The rule of a course, or of one recording in it: its sentence, and in people what another would change. */
import { computed, ref, shallowRef, useTemplateRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { Problem, type Schemas } from '../../api/client'
import { previewRule, useRule, useRuleChange, type Rule, type RuleScope } from '../../api/rules'
import FaultNote from '../../parts/FaultNote.vue'
import LanternSign from '../../parts/LanternSign.vue'
import RuleChange from './RuleChange.vue'
import { useRightWords } from '../common/ruleWords'
import RuleSentence from '../common/RuleSentence.vue'
import RuleWho from '../common/RuleWho.vue'

const props = defineProps<{
  scope: RuleScope
  /** The recording from which one came. */
  back: string
}>()
const { t } = useI18n()
const page = useRule(() => props.scope)
const change = useRuleChange(() => props.scope)
const draft = ref<Rule>()
const before = shallowRef<{ rule: Rule | undefined }>()
const preview = shallowRef<Schemas['RuleChange']>()
/** What is wrong with the draft. */
const fault = ref<unknown>()
/** Why a change was not made. */
const conflict = ref<unknown>()

const copy = (r: Rule): Rule => ({ ...r, groups: [...r.groups] })
/** said is a rule in one way of writing: the same moment can be written in several. */
const said = (r: Rule) => {
  const at = (t: string | undefined) => (t ? Date.parse(t) : 0)
  return JSON.stringify([
    r.audience,
    r.groups,
    [...r.uses].sort(),
    r.from,
    at(r.from_at),
    r.from === 'days' ? r.days_after_lecture : 0,
    r.until,
    at(r.until_at),
    r.until === 'term' ? r.days_after_term : 0,
  ])
}
const same = (a: Rule | undefined, b: Rule | undefined) => (a && b ? said(a) === said(b) : a === b)
const words = useRightWords(() => page.data.value?.zone ?? 'UTC')
/** For whom the rule is. */
const who = computed(() => {
  if (!props.scope.course || !draft.value) return t('rule.college_who')
  return words.who(draft.value, page.data.value?.course.code ?? '')
})
/** What is to be known before the sentence: whose rule it is. */
const above = computed(() => {
  const p = page.data.value
  if (!p) return ''
  const course = p.course.code
  if (!props.scope.course) return t(p.set ? 'rule.college_text' : 'rule.college_none')
  if (props.scope.recording && p.set) return t('rule.its_own', { course })
  if (p.set) return ''
  if (p.whence === 'course') return t('rule.as_course', { course })
  if (p.whence === 'college') return t(props.scope.recording ? 'rule.as_college_one' : 'rule.as_college', { course })
  return t('rule.none')
})
/** How a rule is given up: what holds then. */
const giveUp = computed(() => {
  const p = page.data.value
  if (!p?.set) return ''
  if (!props.scope.course) return t('rule.college_clear')
  if (p.whence === 'course') return t('rule.as_course_again', { course: p.course.code })
  return t(p.whence === 'college' ? 'rule.as_college_again' : 'rule.clear')
})
const changed = computed(
  () =>
    page.data.value !== undefined &&
    ((!page.data.value.set && !page.data.value.of_course) || !same(draft.value, page.data.value.rule)),
)

watch(
  () => page.data.value,
  (p, old) => {
    if (!p) return
    if (!draft.value || !old || same(draft.value, old.rule)) draft.value = copy(p.rule)
    else if (p.version !== old.version && !same(draft.value, p.rule))
      conflict.value = new Problem(409, p.set ? 'rule.changed' : 'rule.gone', '', { name: p.by ?? '' })
  },
  { immediate: true },
)

const entry = useTemplateRef<HTMLElement>('entry')
let asked = 0
watch(
  [draft, () => page.data.value],
  async ([rule]) => {
    if (!rule) return
    const mine = ++asked
    try {
      const p = await previewRule(props.scope, rule)
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
  conflict.value = undefined
  try {
    await change.mutateAsync({ rule: draft.value, seen: p.version })
    before.value = earlier
  } catch (e) {
    refused(e)
  }
}

/** refused says why a change was not made; what someone else made meanwhile is then shown beside it. */
function refused(e: unknown) {
  conflict.value = e
  void page.refetch()
}

/** clear takes the rule away: that of the course, or of the college, holds then. */
async function clear() {
  const p = page.data.value
  if (!p) return
  const earlier = { rule: copy(p.rule) }
  try {
    draft.value = copy((await change.mutateAsync({ rule: undefined, seen: p.version })).rule)
    before.value = earlier
  } catch (e) {
    refused(e)
  }
}

async function undo() {
  const earlier = before.value
  if (!earlier || !page.data.value) return
  try {
    const p = await change.mutateAsync({ rule: earlier.rule, seen: page.data.value.version })
    before.value = undefined
    draft.value = copy(p.rule)
  } catch (e) {
    refused(e)
  }
}

/** propose has a rule looked at, before it is kept. */
function propose(rule: Rule) {
  draft.value = copy(rule)
  entry.value?.scrollIntoView({ block: 'center' })
}
defineExpose({ propose })

function discard() {
  conflict.value = undefined
  if (page.data.value) draft.value = copy(page.data.value.rule)
}
</script>

<template>
  <FaultNote v-if="page.error.value && !page.data.value" :error="page.error.value" again @again="page.refetch()" />
  <section v-if="page.data.value && draft" ref="entry" class="page rule">
    <p v-if="above" class="soft">{{ above }}</p>
    <RuleSentence
      :model-value="draft"
      :who="who"
      :zone="page.data.value.zone"
      @update:model-value="(r) => (draft = { ...draft!, ...r })"
    >
      <RuleWho
        v-if="scope.course"
        v-model="draft"
        :course="page.data.value.course.code"
        :groups="page.data.value.groups"
      />
      <span v-else class="soft">{{ t('rule.college_text') }}</span>
    </RuleSentence>
    <FaultNote v-if="fault" :error="fault" />
    <FaultNote v-if="conflict" :error="conflict" />
    <div v-if="preview" class="effect">
      <LanternSign
        :state="preview.recordings === 0 || preview.can === 0 ? 'dark' : preview.can < preview.of ? 'part_lit' : 'lit'"
        :can="preview.can"
        :of="preview.of"
        mute
        :size="40"
      />
      <RuleChange :change="preview" :changed="changed" :college="!scope.course" />
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
      <el-button v-if="!changed && giveUp" link @click="clear">{{ giveUp }}</el-button>
      <el-button v-if="changed && (page.data.value.set || page.data.value.of_course)" link @click="discard">
        {{ t('rule.discard') }}
      </el-button>
    </p>
  </section>
</template>

<style scoped>
.rule {
  max-width: 980px;
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
