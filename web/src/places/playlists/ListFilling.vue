<script setup lang="ts">
/** The sentence by which a playlist keeps itself filled, and what it would bring before it is kept. */
import { computed, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { useMe } from '../../api/me'
import { previewFilling, setFilling, type FillText, type ListOf, type PlaylistPage } from '../../api/playlists'
import { useCourses } from '../../api/timetable'
import ChoiceList from '../../parts/ChoiceList.vue'
import FaultNote from '../../parts/FaultNote.vue'
import FormText from '../../parts/FormText.vue'
import PageSheet from '../../parts/PageSheet.vue'
import { useForm } from '../../parts/form'
import { dateText } from '../../parts/time'
import { taught } from '../common/choices'

const props = defineProps<{ page: PlaylistPage; list: ListOf }>()
const emit = defineEmits<{ kept: [was: FillText] }>()
const { t } = useI18n()
const me = useMe()
const courses = useCourses()
const form = useForm()
const open = ref(false)
const course = ref('')
const words = ref('')
const said = ref<Awaited<ReturnType<typeof previewFilling>>>()
const options = computed(() => [
  { value: '', text: t('filling.any') },
  ...taught(courses.data.value?.courses ?? [], me.data.value),
])
const now = computed(() => props.page.list.filling)
const text = computed<FillText>(() => ({ course: course.value || undefined, words: words.value.trim() }))
const none = computed(() => !text.value.course && !text.value.words)
/** What holds now, as a sentence. */
const sentence = computed(() => {
  if (!now.value) return t('filling.none')
  const code = courses.data.value?.courses.find((c) => c.id === now.value!.course)?.code
  const key = now.value.course ? (now.value.words ? 'of_words' : 'of') : 'words'
  return t(`filling.${key}`, { course: code ?? '…', words: now.value.words ?? '' })
})

function begin() {
  course.value = now.value ? (now.value.course ?? '') : props.page.course.id
  words.value = now.value?.words ?? ''
  open.value = true
}

let last = 0
watch([open, text], async () => {
  const mine = ++last
  said.value = undefined
  if (!open.value || none.value) return
  await new Promise((done) => setTimeout(done, 250))
  if (mine !== last) return
  const got = await form.send(() => previewFilling(props.list, text.value))
  if (mine === last) said.value = got
})

async function keep(sentence: FillText) {
  const was = now.value ?? {}
  if (!(await form.send(() => setFilling(props.list, sentence)))) return
  open.value = false
  emit('kept', was)
}
</script>

<template>
  <p class="sentence">
    {{ sentence }}
    <el-button link @click="begin">{{ t(now ? 'filling.change' : 'filling.begin') }}</el-button>
    <el-button v-if="now" link :disabled="form.busy.value" @click="keep({})">{{ t('filling.end') }}</el-button>
  </p>
  <PageSheet :open="open" :title="t('filling.title')" @close="open = false">
    <form @submit.prevent="keep(text)">
      <ChoiceList v-model="course" :label="t('filling.recordings')" :options="options" />
      <FormText v-model="words" size="wide" :label="t('filling.holding')" :help="t('filling.help')" maxlength="120" />
      <div role="status">
        <p v-if="none" class="soft">{{ t('filling.say') }}</p>
        <template v-else-if="said">
          <p>
            <b>{{ t('filling.come', { n: said.come.length }, said.come.length) }}</b>
            <template v-if="said.here > 0"> {{ t('filling.here', { n: said.here }, said.here) }}</template>
            <template v-if="said.leave > 0"> {{ t('filling.leave', { n: said.leave }, said.leave) }}</template>
          </p>
          <ul class="plain">
            <li v-for="r in said.come.slice(0, 12)" :key="r.recording_id">
              {{ r.title }} <span class="soft small">{{ r.code }}, {{ dateText(r.starts_at, page.zone) }}</span>
            </li>
            <li v-if="said.come.length > 12" class="soft">{{ t('filling.more', { n: said.come.length - 12 }) }}</li>
          </ul>
        </template>
      </div>
      <FaultNote v-if="form.problem.value" :error="form.problem.value" />
      <el-button type="primary" native-type="submit" :disabled="form.busy.value || none || !said">{{
        t('filling.keep')
      }}</el-button>
    </form>
  </PageSheet>
</template>

<style scoped>
.sentence {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 18px;
  align-items: baseline;
  margin: 4px 0 8px;
}

form {
  display: flex;
  flex-direction: column;
  gap: 12px;
  align-items: flex-start;
}

li {
  padding: 3px 0;
}
</style>
