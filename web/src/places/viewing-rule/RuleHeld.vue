<script setup lang="ts">
/** The rule of a course, or of one recording in it: its sentence, and in people what another would change. */
import { computed, shallowRef, useTemplateRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { Problem } from '../../api/client'
import { previewRule, useRule, useRuleChange, type Rule, type RuleScope } from '../../api/rules'
import FaultNote from '../../parts/FaultNote.vue'
import { useForm } from '../../parts/form'
import LanternSign from '../../parts/LanternSign.vue'
import { usePreview } from '../../parts/preview'
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
const making = useRuleChange(() => props.scope)
/** What held before, which can be taken up again. */
const before = shallowRef<{ rule: Rule | undefined }>()

/** plain is a rule in one way of writing: the same moment can be written in several. */
const plain = (r: Rule): Rule => ({
  audience: r.audience,
  groups: r.groups,
  uses: [...r.uses].sort(),
  from: r.from,
  from_at: r.from_at && new Date(r.from_at).toISOString(),
  days_after_lecture: r.days_after_lecture,
  until: r.until,
  until_at: r.until_at && new Date(r.until_at).toISOString(),
  days_after_term: r.days_after_term,
})
const {
  draft: held,
  changed: entered,
  problem: refused,
  busy,
  send,
  reset,
} = useForm(() => page.data.value && { rule: plain(page.data.value.rule) })
const draft = computed({
  get: () => held.value?.rule,
  set: (rule) => (held.value = rule && { rule: plain(rule) }),
})
/** What the draft would change, or what is wrong with it. */
const { preview, fault, look } = usePreview(() => (draft.value ? previewRule(props.scope, draft.value) : undefined))
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
const proposed = computed(() => page.data.value && !page.data.value.set && !page.data.value.of_course)
const changed = computed(() => proposed.value || entered.value)

watch(
  () => page.data.value,
  (p, old) => {
    if (p && old && p.version !== old.version && entered.value)
      refused.value = new Problem(409, p.set ? 'rule.changed' : 'rule.gone', '', { name: p.by ?? '' })
  },
)

const entry = useTemplateRef<HTMLElement>('entry')
watch([draft, () => page.data.value], () => void look(), { deep: true, immediate: true })

/**
 * change keeps a rule, or takes it away: that of the course, or of the college, holds then. What someone else made
 * meanwhile is shown beside why it was not done.
 */
async function change(rule: Rule | undefined): Promise<unknown> {
  const p = page.data.value
  if (!p) return undefined
  const was = { rule: p.set ? plain(p.rule) : undefined }
  const got = await send(() => making.mutateAsync({ rule, seen: p.version }))
  if (!got) return void page.refetch()
  before.value = was
  draft.value = got.rule
  return got
}

async function undo() {
  if (before.value && (await change(before.value.rule))) before.value = undefined
}

/** propose has a rule looked at, before it is kept. */
function propose(rule: Rule) {
  draft.value = rule
  entry.value?.scrollIntoView({ block: 'center' })
}
defineExpose({ propose })

function discard() {
  refused.value = undefined
  reset()
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
    <FaultNote v-if="refused" :error="refused" />
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
      <el-button v-if="changed" type="primary" :disabled="fault !== undefined || busy" @click="change(draft)">
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
      <el-button v-if="!changed && giveUp" link @click="change(undefined)">{{ giveUp }}</el-button>
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
