<script setup lang="ts">
/** An opening as its sentence, and in people what it changes; one that is being made, or one that is there. */
import { computed, onMounted, ref, useTemplateRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { previewOpening, useOpeningChange, type Opening, type OpeningForm, type Opens } from '../../../api/openings'
import { Problem, type Schemas } from '../../../api/client'
import FaultNote from '../../../parts/FaultNote.vue'
import { useForm } from '../../../parts/form'
import { usePreview } from '../../../parts/preview'
import { dayAndClock } from '../../../parts/time'
import LinkLine from './LinkLine.vue'
import OpeningWho from './OpeningWho.vue'
import RuleSentence from '../RuleSentence.vue'

const props = defineProps<{ course: string; of: Opens; zone: string; opening?: Opening; fresh?: OpeningForm }>()
const emit = defineEmits<{ takeBack: []; done: [] }>()
const { t } = useI18n()
const change = useOpeningChange(() => props.of)
/** What is being made is looked at. */
const entry = useTemplateRef<HTMLElement>('entry')
onMounted(() => {
  if (props.fresh) entry.value?.scrollIntoView({ block: 'center' })
})
const sentence = ref<InstanceType<typeof RuleSentence>>()
/** The names of those who are named, by their ID. */
const names = ref<Record<string, string>>({})

/** An opening without what only the server says of it. */
function formOf(o: Opening): OpeningForm {
  const { kind, name, people, uses, most, from, from_at, days_after_lecture, until, until_at, days_after_term } = o
  return { kind, name, people, uses, most, from, from_at, days_after_lecture, until, until_at, days_after_term }
}
const held = computed(() => (props.opening ? formOf(props.opening) : undefined))
const form = useForm<OpeningForm>(() => held.value ?? props.fresh!)
const { draft } = form
/** What is being made is still to be kept. */
const changed = computed(() => !held.value || form.changed.value)
watch(
  () => props.opening?.came,
  (came) => {
    for (const p of came ?? []) names.value[p.person_id] = p.name
  },
  { immediate: true },
)

/** For whom it is, as it stands in the sentence. */
const who = computed(() => {
  const d = draft.value
  if (d.kind === 'everyone') return t('opening.everyone')
  if (d.kind === 'link') return d.name ? t('opening.holders', { name: d.name }) : t('opening.holders_new')
  const all = (d.people ?? []).map((p) => names.value[p] ?? '…')
  if (all.length === 0) return t('opening.some')
  if (all.length < 4) return all.join(', ')
  return t('opening.more', { names: all.slice(0, 3).join(', '), n: all.length - 3 }, all.length - 3)
})

const unsaid = computed(
  () =>
    (draft.value.kind === 'people' && !draft.value.people?.length) ||
    (draft.value.kind === 'link' && !draft.value.name),
)
/** What it would change, and what is wrong with it, but for what is still to be entered. */
const { preview, fault, look } = usePreview(() =>
  changed.value && !unsaid.value ? previewOpening(props.of, draft.value) : undefined,
)
/** What is wrong with single fields stands at them. */
const faults = computed(() => ({
  ...(fault.value instanceof Problem ? fault.value.fields : {}),
  ...form.fields.value,
}))
watch(
  draft,
  () => {
    preview.value = fault.value = form.problem.value = undefined
    void look()
  },
  { deep: true, immediate: true },
)

async function keep() {
  const f = { ...draft.value }
  const done = await form.send(() =>
    change.mutateAsync(props.opening ? { do: 'change', id: props.opening.id, form: f } : { do: 'open', form: f }),
  )
  if (!done) {
    if (Object.keys(form.fields.value).length) sentence.value?.show('who') // there it stands what is wrong
    return
  }
  form.reset()
  emit('done')
}

function cancel() {
  form.problem.value = undefined
  form.reset()
  if (!held.value) emit('done')
}
/** How many recordings of a playlist its link opens. */
const given = (x: Schemas['ListOpened']) =>
  [
    t('opening.list_gain', { n: x.open }, x.open),
    x.dark > 0 ? t('opening.list_dark', { n: x.dark }, x.dark) : '',
    x.others > 0 ? t('opening.list_others', { n: x.others }, x.others) : '',
  ].join(' ')
const when = computed(() => {
  const o = props.opening
  if (o?.state === 'not_yet' && o.opens) return t('opening.not_yet', { at: dayAndClock(o.opens, props.zone) })
  return o?.state === 'no_longer' ? t('opening.no_longer') : ''
})
</script>

<template>
  <article ref="entry" class="page">
    <RuleSentence
      ref="sentence"
      :first="opening || draft.kind === 'everyone' ? undefined : 'who'"
      :model-value="draft"
      :who="who"
      :zone="zone"
      @update:model-value="(r) => (draft = { ...draft, ...r })"
    >
      <OpeningWho v-model="draft" v-model:names="names" :of="of" :asks="opening?.phrase ?? false" :faults="faults" />
    </RuleSentence>
    <LinkLine
      v-if="opening && opening.kind === 'link' && !changed"
      :course="course"
      :of="of"
      :opening="opening"
      :zone="zone"
    />
    <FaultNote v-if="fault && Object.keys(faults).length === 0" :error="fault" />
    <FaultNote v-if="form.whole.value" :error="form.whole.value" />
    <p v-if="preview" role="status">
      <template v-if="preview.list">{{ given(preview.list) }}</template>
      <template v-else-if="draft.kind === 'link'">{{ t('opening.gain_link') }}</template>
      <template v-else>{{ t('opening.gain', { n: preview.gain }, preview.gain) }}</template>
      <span v-if="preview.names.length" class="soft">{{ preview.names.join(', ') }}</span>
    </p>
    <p class="do">
      <template v-if="changed">
        <el-button type="primary" :disabled="unsaid || fault !== undefined || form.busy.value" @click="keep">{{
          t(opening ? 'opening.keep' : draft.kind === 'link' ? 'opening.make_link' : 'opening.make')
        }}</el-button>
        <el-button link @click="cancel">{{ t('leave') }}</el-button>
      </template>
      <template v-else-if="opening">
        <span class="soft small">{{ t('opening.by', { name: opening.by, at: dayAndClock(opening.at, zone) }) }}</span>
        <b v-if="when" class="small">{{ when }}</b>
        <el-button link :aria-label="t('opening.take_back_it', { what: who })" @click="emit('takeBack')">{{
          t('opening.take_back')
        }}</el-button>
      </template>
    </p>
  </article>
</template>

<style scoped>
article {
  margin-top: 12px;
}

article :deep(.sentence),
article :deep(.sentence button) {
  font-size: 18px;
}

.do {
  display: flex;
  flex-wrap: wrap;
  gap: 16px;
  align-items: center;
  margin-top: 10px;
}
</style>
