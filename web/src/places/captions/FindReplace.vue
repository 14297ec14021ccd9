<script setup lang="ts">
/** Finding words in all lines, and putting others in their place. */
import { refDebounced } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { useFound, type Finding, type Replacing } from '../../api/captions'
import FaultNote from '../../parts/FaultNote.vue'
import { useForm } from '../../parts/form'

const props = defineProps<{
  recording: string
  language: string
  replace: (r: Replacing) => Promise<number>
}>()
const emit = defineEmits<{ found: [lines: string[]]; next: [] }>()
const { t } = useI18n()
const put = ref('')
const finding = ref<Finding>({ find: '', exact: false, whole: false })
const found = useFound(
  () => props.recording,
  () => props.language,
  refDebounced(
    computed(() => ({ ...finding.value })),
    200,
  ),
)
const answer = computed(() => (finding.value.find ? found.data.value : undefined))
const places = computed(() => answer.value?.places)
const done = ref('')
const { busy, problem, send } = useForm()

watch(answer, (a) => emit('found', a?.lines ?? []))
watch([finding, put], () => (done.value = ''), { deep: true })

async function go() {
  const n = await send(() => props.replace({ ...finding.value, with: put.value }))
  if (n !== undefined) done.value = t('captions.replaced', { n }, n)
}
</script>

<template>
  <form class="find small" role="search" @submit.prevent="emit('next')">
    <label for="find-words">{{ t('captions.find') }}</label>
    <el-input id="find-words" v-model="finding.find" class="compact" type="search" maxlength="200" />
    <p>
      <el-checkbox v-model="finding.whole">{{ t('captions.whole') }}</el-checkbox>
      <el-checkbox v-model="finding.exact">{{ t('captions.exact') }}</el-checkbox>
      <span v-if="places !== undefined" role="status" class="soft">{{
        t('captions.found', { n: places }, places)
      }}</span>
      <el-button v-if="places" link native-type="submit">{{ t('captions.next_hit') }}</el-button>
    </p>
    <label for="put-words">{{ t('captions.with') }}</label>
    <el-input id="put-words" v-model="put" class="compact" maxlength="200" />
    <p>
      <el-button :disabled="!places || busy" @click="go">{{ t('captions.replace') }}</el-button>
      <span v-if="done" role="status">{{ done }}</span>
    </p>
    <FaultNote v-if="problem || found.error.value" class="fault" :error="problem ?? found.error.value" />
  </form>
</template>

<style scoped>
.find {
  display: grid;
  grid-template-columns: auto minmax(120px, 220px) minmax(0, 1fr);
  gap: 6px 12px;
  align-items: center;
  padding: 8px 0;
}

p {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  align-items: center;
  margin: 0;
}

.fault {
  grid-column: 1 / -1;
}

.el-button {
  min-height: 30px;
  padding: 3px 12px;
}
</style>
