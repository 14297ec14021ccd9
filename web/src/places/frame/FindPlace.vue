<script setup lang="ts">
/** Looks for courses, lectures, recordings, halls and people by their names, from wherever one is, and leads to where
 * it is looked for what was said. */
import type { SelectInstance } from 'element-plus'
import { computed, nextTick, onMounted, ref, useTemplateRef } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRouter } from 'vue-router'
import { find } from '../../api/find'
import { usePreview } from '../../parts/preview'
import { dateText } from '../../parts/time'
import { placeOf, type Found } from './found'

const open = defineModel<boolean>('open', { required: true })
const { t } = useI18n()
const router = useRouter()
/** Stands for what was said and shown. */
const spoken = 'said'
const chosen = ref('')
const words = ref('')
const { preview, fault, busy, look } = usePreview(() => (words.value ? find(words.value) : undefined))
const lines = computed<Found[]>(() => preview.value?.found ?? [])
const said = computed(() => (fault.value ? 'fault' : words.value ? 'nothing' : 'hint'))
const field = useTemplateRef<SelectInstance>('field')

function write(text: string) {
  words.value = text.trim().length > 1 ? text.trim() : ''
  void look()
}

function go(id: string) {
  const line = lines.value.find((f) => f.id === id)
  const text = words.value
  leave()
  if (id === spoken) return void router.push({ name: 'search', query: { words: text } })
  if (line) void router.push(placeOf(line))
}

function leave() {
  chosen.value = ''
  write('') // what is still asked for is not waited for
  open.value = false
  field.value?.blur()
}

async function enter() {
  open.value = true
  await nextTick()
  field.value?.focus()
}

/** Of a line, what tells it from others of the same name. */
function more(f: Found): string {
  const date = f.starts_at ? dateText(f.starts_at, preview.value?.zone ?? 'UTC') : ''
  return [f.kind === 'course' ? '' : f.course, date, f.term, f.email].filter(Boolean).join(' · ')
}

// It was asked for before it was here.
onMounted(() => {
  if (open.value) void enter()
})

defineExpose({ enter })
</script>

<template>
  <search class="find">
    <el-select
      ref="field"
      v-model="chosen"
      :aria-label="t('find.name')"
      :placeholder="t('find.name')"
      filterable
      remote
      :remote-method="write"
      :debounce="180"
      :loading="busy"
      :loading-text="t('find.looking')"
      :no-data-text="t(`find.${said}`)"
      :fit-input-width="false"
      default-first-option
      popper-class="find-list"
      placement="bottom-end"
      :show-arrow="false"
      @change="go"
      @keydown.esc.capture="leave"
      @blur="open = false"
    >
      <template #prefix>
        <svg class="glass" viewBox="0 0 16 16" aria-hidden="true">
          <circle cx="6.5" cy="6.5" r="4.5" />
          <path d="m10 10 4.5 4.5" />
        </svg>
      </template>
      <el-option v-for="f in lines" :key="f.id" :value="f.id" :label="f.name">
        <span class="line">
          <span class="name"
            ><b v-if="f.kind === 'course'">{{ f.course }}</b> {{ f.name }}</span
          >
          <span class="soft small">{{ t(`find.${f.kind}`) }}</span>
          <span v-if="more(f)" class="soft small more">{{ more(f) }}</span>
        </span>
      </el-option>
      <el-option v-if="words && !busy" :key="spoken" class="spoken" :value="spoken" :label="words">
        <span class="line">
          <span class="name">{{ t('find.said', { words }) }}</span>
          <span v-if="lines.length === 0" class="soft small more">{{ t(`find.${said}`) }}</span>
        </span>
      </el-option>
    </el-select>
  </search>
</template>

<style scoped>
.glass {
  width: 16px;
  fill: none;
  stroke: var(--ink-2);
  stroke-width: 1.6;
  stroke-linecap: round;
}

.line {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 0 16px;
  min-width: 300px;
  padding: 5px 0;
  line-height: 1.35;
}

.name {
  white-space: normal;
}

.more {
  grid-column: 1 / -1;
}
</style>
