<script setup lang="ts">
/** Title and description, written where they stand and kept as one goes. */
import { nextTick, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'
import type { BenchChange } from '../../api/bench'
import WrittenText from '../../parts/WrittenText.vue'
import BenchAbout from './BenchAbout.vue'

const props = defineProps<{ bench: Schemas['Bench']; keep: (c: BenchChange) => Promise<boolean> }>()
const { t } = useI18n()
const described = ref(props.bench.description !== '' || props.bench.keywords.length > 0 || props.bench.language !== '')
const kept = ref('')
const area = ref<HTMLElement>()

async function change(c: BenchChange) {
  if (await props.keep(c)) kept.value = t('bench.kept')
}

async function describe() {
  described.value = true
  await nextTick()
  area.value?.querySelector('textarea')?.focus()
}
</script>

<template>
  <div class="heading">
    <h1 class="away">{{ bench.title }}</h1>
    <div class="title">
      <WrittenText
        quiet
        needed
        :text="bench.title"
        :label="t('bench.title')"
        :max="200"
        @write="(title) => change({ do: 'title', title })"
      />
    </div>
    <template v-if="described">
      <div ref="area">
        <WrittenText
          quiet
          :rows="2"
          :text="bench.description"
          :label="t('bench.description')"
          :max="4000"
          :placeholder="t('bench.description')"
          @write="(description) => change({ do: 'description', description })"
        />
      </div>
      <BenchAbout :bench="bench" />
    </template>
    <el-button v-else link class="describe" @click="describe">{{ t('bench.describe') }}</el-button>
    <span class="away" role="status">{{ kept }}</span>
  </div>
</template>

<style scoped>
.title {
  margin-bottom: 2px;
  font: 600 26px/1.4 var(--serif);
}
</style>
