<script setup lang="ts">
/** Keywords and language of a recording, kept as one goes. */
import { useQueryClient } from '@tanstack/vue-query'
import { useI18n } from 'vue-i18n'
import { type Schemas } from '../../api/client'
import { keys } from '../../api/queries'
import { setAbout } from '../../api/titles'
import FaultNote from '../../parts/FaultNote.vue'
import UndoLine from '../../parts/UndoLine.vue'
import { useForm } from '../../parts/form'

const props = defineProps<{ bench: Schemas['Bench'] }>()
const { t } = useI18n()
const client = useQueryClient()
const joined = (list: string[]) => list.join(', ')
const form = useForm(() => ({ keywords: joined(props.bench.keywords), language: props.bench.language }), false)
const { draft, problem, done } = form
type About = typeof draft.value

async function write(d: About) {
  const bench = await setAbout(props.bench.id, { language: d.language.trim(), keywords: d.keywords.split(',') })
  client.setQueryData(keys.recording(bench.id), bench)
}
const keep = () => form.keep(write, t('bench.kept'))

const wrong = (field: string) => form.fields.value[field] ?? ''
</script>

<template>
  <div class="about small">
    <label>
      {{ t('about.keywords') }}
      <el-input
        v-model="draft.keywords"
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
        v-model="draft.language"
        class="compact language"
        maxlength="35"
        :aria-invalid="wrong('language') ? 'true' : undefined"
        @change="keep"
      />
    </label>
    <span v-if="wrong('keywords') || wrong('language')" class="tally" role="alert">{{
      wrong('keywords') || wrong('language')
    }}</span>
    <FaultNote v-else-if="problem" :error="problem" />
    <UndoLine v-if="done" v-bind="done" :key="done.key" />
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
