<script setup lang="ts">
/** How the titles of a course are made; what is written is tried at once on those below. */
import { ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'
import { Problem } from '../../api/client'
import { keepPattern } from '../../api/titles'
import FaultNote from '../../parts/FaultNote.vue'
import UndoLine from '../../parts/UndoLine.vue'
import { useForm } from '../../parts/form'

const props = defineProps<{ course: Schemas['TitleCourse']; error: unknown }>()
const emit = defineEmits<{ try: [pattern: string]; kept: [] }>()
const { t } = useI18n()
const words = ['course', 'name', 'week', 'date', 'subject', 'part']
const { draft, changed, busy, problem, done, keep } = useForm(() => ({ pattern: props.course.pattern }))
const box = ref<HTMLInputElement>()

watch(
  () => draft.value.pattern,
  (p) => {
    problem.value = undefined
    emit('try', p)
  },
)

/** put writes a word where the cursor stands. */
function put(word: string) {
  const b = box.value
  if (!b) return
  const text = draft.value.pattern
  const [from, to] = [b.selectionStart ?? text.length, b.selectionEnd ?? text.length]
  draft.value.pattern = `${text.slice(0, from)}{${word}}${text.slice(to)}`
  b.focus()
}

const write = () =>
  keep(
    async (d) => {
      await keepPattern(props.course.id, d.pattern)
      emit('kept')
    },
    t('titles.pattern_kept', { course: props.course.code }),
  )

const wrong = () => {
  const e = problem.value ?? props.error
  return e instanceof Problem && e.fields.pattern
}
</script>

<template>
  <form class="field" @submit.prevent="write">
    <label for="pattern">{{ t('titles.pattern', { course: course.code }) }}</label>
    <div class="row">
      <el-input
        id="pattern"
        ref="box"
        v-model="draft.pattern"
        maxlength="200"
        :aria-invalid="wrong() ? 'true' : undefined"
        aria-describedby="pattern-help"
      />
      <el-button native-type="submit" :disabled="busy || !changed || !!wrong()">
        {{ t('titles.keep_pattern') }}
      </el-button>
    </div>
    <p v-if="wrong()" class="tally small" role="alert">{{ wrong() }}</p>
    <FaultNote v-else-if="problem" :error="problem" />
    <p id="pattern-help" class="soft small help">
      {{ t('titles.pattern_help') }}
      <el-button v-for="w in words" :key="w" link class="mono" @click="put(w)">{{ `{${w}\}` }}</el-button>
    </p>
    <UndoLine v-if="done" v-bind="done" :key="done.key" />
  </form>
</template>

<style scoped>
.row {
  display: flex;
  gap: 10px;
}

.el-input {
  flex: 1;
}

.help {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
  margin-top: 4px;
}
</style>
