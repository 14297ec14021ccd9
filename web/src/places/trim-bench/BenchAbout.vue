<script setup lang="ts">
/** Keywords and language of a recording, kept as one goes. */
import { useQueryClient } from '@tanstack/vue-query'
import { ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { Problem, type Schemas } from '../../api/client'
import { keys } from '../../api/queries'
import { setAbout } from '../../api/titles'
import FaultNote from '../../parts/FaultNote.vue'

const props = defineProps<{ bench: Schemas['Bench'] }>()
const { t } = useI18n()
const client = useQueryClient()
const joined = (list: string[]) => list.join(', ')
const keywords = ref(joined(props.bench.keywords))
const language = ref(props.bench.language)
const kept = ref('')
const fault = ref<unknown>()

watch(
  () => [joined(props.bench.keywords), props.bench.language] as const,
  ([k, l], [k0, l0]) => {
    if (keywords.value === k0) keywords.value = k
    if (language.value === l0) language.value = l
  },
)

async function keep() {
  fault.value = undefined
  kept.value = ''
  try {
    const bench = await setAbout(props.bench.id, {
      language: language.value.trim(),
      keywords: keywords.value.split(','),
    })
    client.setQueryData(keys.recording(bench.id), bench)
    keywords.value = joined(bench.keywords)
    kept.value = t('bench.kept')
  } catch (e) {
    fault.value = e
  }
}

const wrong = (field: string) => (fault.value instanceof Problem && fault.value.fields[field]) || ''
</script>

<template>
  <div class="about small">
    <label>
      {{ t('about.keywords') }}
      <el-input
        v-model="keywords"
        class="compact words"
        maxlength="2000"
        :placeholder="t('about.keywords_hint')"
        :aria-invalid="wrong('keywords') ? 'true' : undefined"
        @change="keep"
      />
    </label>
    <label>
      {{ t('about.language') }}
      <el-input
        v-model="language"
        class="compact language"
        maxlength="35"
        :aria-invalid="wrong('language') ? 'true' : undefined"
        @change="keep"
      />
    </label>
    <span v-if="wrong('keywords') || wrong('language')" class="tally" role="alert">{{
      wrong('keywords') || wrong('language')
    }}</span>
    <FaultNote v-else-if="fault" :error="fault" />
    <span class="away" role="status">{{ kept }}</span>
  </div>
</template>

<style scoped>
.about {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 18px;
  align-items: center;
  margin: 6px 0;
}

.words {
  width: 280px;
}

.language {
  width: 80px;
}
</style>
