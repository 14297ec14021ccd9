<script setup lang="ts">
/** For whom an opening is: people who are found by name, or a link with its name, pass phrase and limit. */
import { useDebounceFn } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { peopleToName, type OpeningForm, type Opens } from '../../../api/openings'
import FaultNote from '../../../parts/FaultNote.vue'
import FormText from '../../../parts/FormText.vue'
import { usePreview } from '../../../parts/preview'

const form = defineModel<OpeningForm>({ required: true })
const names = defineModel<Record<string, string>>('names', { required: true })
const props = defineProps<{ of: Opens; asks: boolean; faults: Record<string, string> }>()
const { t } = useI18n()
const words = ref('')
const {
  preview,
  fault,
  busy: looking,
  look,
} = usePreview(() =>
  words.value.trim().length > 1 && 'recording' in props.of ? peopleToName(props.of.recording, words.value) : undefined,
)
const found = computed(() => preview.value ?? [])
watch(found, (people) => {
  for (const p of people) names.value[p.id] = p.name
})

const options = computed(() => {
  const chosen = (form.value.people ?? []).filter((p) => !found.value.some((f) => f.id === p))
  return [
    ...chosen.map((p) => ({ value: p, label: names.value[p] ?? '…' })),
    ...found.value.map((f) => ({ value: f.id, label: `${f.name} · ${f.email}` })),
  ]
})

const lookSoon = useDebounceFn(look, 200)
function find(written: string) {
  words.value = written
  looking.value = true
  void lookSoon()
}
const most = computed({
  get: () => form.value.most ?? undefined,
  set: (n) => (form.value = { ...form.value, most: n ?? undefined }),
})
</script>

<template>
  <label v-if="form.kind === 'people'" class="people">
    <span>{{ t('opening.find') }}</span>
    <el-select
      :model-value="form.people ?? []"
      multiple
      filterable
      remote
      :remote-method="find"
      :loading="looking"
      :teleported="false"
      :validate-event="false"
      :aria-label="t('opening.find')"
      :no-data-text="t('opening.nobody_found')"
      placeholder=""
      @update:model-value="(people: string[]) => (form = { ...form, people })"
    >
      <el-option v-for="o in options" :key="o.value" v-bind="o" />
    </el-select>
    <span class="soft small">{{ t('opening.find_help') }}</span>
  </label>
  <FaultNote v-if="fault" :error="fault" />
  <span v-if="form.kind === 'everyone'" class="soft">{{ t('opening.everyone') }}</span>
  <template v-else-if="form.kind === 'link'">
    <FormText
      :model-value="form.name ?? ''"
      :label="t('opening.name')"
      :help="t('opening.name_help')"
      :fault="faults.name"
      @update:model-value="(name) => (form = { ...form, name: String(name) })"
    />
    <FormText
      :model-value="form.phrase ?? ''"
      :label="t('opening.phrase')"
      :help="t(asks ? 'opening.phrase_keep' : 'opening.phrase_help')"
      :fault="faults.phrase"
      autocomplete="off"
      @update:model-value="(phrase) => (form = { ...form, phrase: phrase === '' ? undefined : String(phrase) })"
    />
    <el-checkbox
      v-if="asks"
      :model-value="form.phrase === ''"
      @update:model-value="
        (on: string | number | boolean) => (form = { ...form, phrase: on === true ? '' : undefined })
      "
    >
      {{ t('opening.phrase_none') }}
    </el-checkbox>
    <label class="most">
      <span>{{ t('opening.most') }}</span>
      <el-input-number
        v-model="most"
        :min="1"
        :max="10000"
        :step-strictly="true"
        :aria-label="t('opening.most')"
        :validate-event="false"
      />
      <span class="soft small">{{ t('opening.most_help') }}</span>
    </label>
  </template>
</template>

<style scoped>
label {
  display: grid;
  gap: 4px;
}

.people {
  width: min(560px, 100%);
}

.most .el-input-number {
  width: 140px;
}
</style>
