<script setup lang="ts">
/** How the titles of a course are made; what is written is tried at once on those below. */
import { ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'
import { Problem } from '../../api/client'
import { keepPattern } from '../../api/titles'
import FaultNote from '../../parts/FaultNote.vue'

const props = defineProps<{ course: Schemas['TitleCourse']; error: unknown }>()
const emit = defineEmits<{ try: [pattern: string]; kept: [] }>()
const { t } = useI18n()
const words = ['course', 'name', 'week', 'date', 'subject', 'part']
const text = ref(props.course.pattern)
const box = ref<HTMLInputElement>()
const kept = ref('')
const fault = ref<unknown>()

watch(text, (p) => {
  kept.value = ''
  fault.value = undefined
  emit('try', p)
})

/** put writes a word where the cursor stands. */
function put(word: string) {
  const b = box.value
  if (!b) return
  const [from, to] = [b.selectionStart ?? text.value.length, b.selectionEnd ?? text.value.length]
  text.value = `${text.value.slice(0, from)}{${word}}${text.value.slice(to)}`
  b.focus()
}

async function keep() {
  fault.value = undefined
  try {
    const answer = await keepPattern(props.course.id, text.value)
    text.value = answer.courses[0]?.pattern ?? text.value
    kept.value = t('titles.pattern_kept', { course: props.course.code })
    emit('kept')
  } catch (e) {
    fault.value = e
  }
}

const wrong = () => {
  const e = fault.value ?? props.error
  return e instanceof Problem && e.fields.pattern
}
</script>

<template>
  <form class="field" @submit.prevent="keep">
    <label for="pattern">{{ t('titles.pattern', { course: course.code }) }}</label>
    <div class="row">
      <el-input
        id="pattern"
        ref="box"
        v-model="text"
        maxlength="200"
        :aria-invalid="wrong() ? 'true' : undefined"
        aria-describedby="pattern-help"
      />
      <el-button native-type="submit" :disabled="text === course.pattern || !!wrong()">
        {{ t('titles.keep_pattern') }}
      </el-button>
    </div>
    <p v-if="wrong()" class="tally small" role="alert">{{ wrong() }}</p>
    <FaultNote v-else-if="fault" :error="fault" />
    <p id="pattern-help" class="soft small help">
      {{ t('titles.pattern_help') }}
      <el-button v-for="w in words" :key="w" link class="mono" @click="put(w)">{{ `{${w}\}` }}</el-button>
    </p>
    <p v-if="kept" role="status">{{ kept }}</p>
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
