<script setup lang="ts">
/** Title and description, written where they stand and kept as one goes. */
import { nextTick, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'
import type { BenchChange } from '../../api/bench'
import BenchAbout from './BenchAbout.vue'

const props = defineProps<{ bench: Schemas['Bench']; keep: (c: BenchChange) => Promise<boolean> }>()
const { t } = useI18n()
const title = ref(props.bench.title)
const description = ref(props.bench.description)
const described = ref(props.bench.description !== '' || props.bench.keywords.length > 0 || props.bench.language !== '')
const kept = ref('')
const area = ref<HTMLTextAreaElement>()

watch(
  () => [props.bench.title, props.bench.description],
  ([t2, d2], [t1, d1]) => {
    // What someone else kept in the meantime shows, unless it would overwrite what is being written here.
    if (title.value === t1) title.value = t2!
    if (description.value === d1) description.value = d2!
  },
)

async function keepTitle() {
  if (title.value.trim() === '') {
    title.value = props.bench.title
    return
  }
  if (title.value === props.bench.title) return
  if (await props.keep({ do: 'title', title: title.value })) {
    title.value = props.bench.title
    kept.value = t('bench.kept')
  }
}

async function keepDescription() {
  if (description.value === props.bench.description) return
  if (await props.keep({ do: 'description', description: description.value })) kept.value = t('bench.kept')
}

async function describe() {
  described.value = true
  await nextTick()
  area.value?.focus()
}
</script>

<template>
  <div class="heading">
    <h1 class="away">{{ bench.title }}</h1>
    <label class="away" for="title">{{ t('bench.title') }}</label>
    <input
      id="title"
      v-model="title"
      class="title"
      maxlength="200"
      @change="keepTitle"
      @keydown.enter="($event.target as HTMLInputElement).blur()"
    />
    <template v-if="described">
      <label class="away" for="description">{{ t('bench.description') }}</label>
      <textarea
        id="description"
        ref="area"
        v-model="description"
        rows="2"
        maxlength="4000"
        :placeholder="t('bench.description')"
        @change="keepDescription"
      />
      <BenchAbout :bench="bench" />
    </template>
    <el-button v-else link class="describe" @click="describe">{{ t('bench.describe') }}</el-button>
    <span class="away" role="status">{{ kept }}</span>
  </div>
</template>

<style scoped>
.title {
  display: block;
  width: calc(100% + 16px);
  margin: 0 0 2px -8px;
  padding: 1px 7px;
  border: 1px solid transparent;
  border-radius: 3px;
  background: none;
  color: var(--ink);
  font: 600 26px/1.4 var(--serif);
}

.title:hover,
textarea:hover {
  border-color: var(--rule-strong);
}

.title:focus-visible,
textarea:focus-visible {
  border-color: var(--kelp);
  outline: 2px solid var(--kelp);
  outline-offset: 0;
}

textarea {
  display: block;
  width: calc(100% + 16px);
  margin-left: -8px;
  padding: 4px 7px;
  border: 1px solid transparent;
  border-radius: 3px;
  background: none;
  color: var(--ink);
  font: inherit;
  resize: vertical;
}
</style>
