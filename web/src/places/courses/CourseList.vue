<script setup lang="ts">
/** The courses of the term, each with the lecture that is on or comes next. */
import { useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRouter } from 'vue-router'
import { useMe } from '../../api/me'
import { addCourse, useCourses } from '../../api/timetable'
import FaultNote from '../../parts/FaultNote.vue'
import FormText from '../../parts/FormText.vue'
import { useForm } from '../../parts/form'
import { clockText, dayAndClock } from '../../parts/time'
import { nameTab } from '../../router'

const { t } = useI18n()
const me = useMe()
const router = useRouter()
const client = useQueryClient()
const list = useCourses()
nameTab(t('place.courses'))

const find = ref('')
const shown = computed(() => {
  const words = find.value.trim().toLowerCase()
  const all = list.data.value?.courses ?? []
  return words ? all.filter((c) => [c.code, c.title, ...c.lecturers].some((x) => x.toLowerCase().includes(words))) : all
})
const when = (next: NonNullable<(typeof shown.value)[number]['next']>) => {
  const zone = list.data.value!.zone
  if (next.state === 'on') return t('course.on_now', { hall: next.hall || t('course.no_hall') })
  if (next.state === 'today')
    return t('course.today_at', { time: clockText(next.starts_at, zone), hall: next.hall || t('course.no_hall') })
  if (next.state === 'over') return t('course.last_was', { when: dayAndClock(next.starts_at, zone) })
  return t('course.next_is', { when: dayAndClock(next.starts_at, zone) })
}

const code = ref('')
const title = ref('')
const adding = ref(false)
const { busy, fields, whole, send } = useForm()
async function add() {
  const page = await send(() => addCourse(list.data.value!.term_id, code.value, title.value))
  if (!page) return
  void client.invalidateQueries({ queryKey: ['courses'] })
  void router.push({ name: 'course', params: { course: page.id } })
}
</script>

<template>
  <section class="narrow">
    <h1>{{ t('place.courses') }}</h1>
    <FaultNote
      v-if="list.error.value && !list.data.value"
      :error="list.error.value"
      :missing="t('board.no_term')"
      again
      @again="list.refetch()"
    />
    <template v-if="list.data.value">
      <p v-if="me.data.value?.staff" class="bar-of-acts">
        <el-button v-if="me.data.value.coordinator" @click="adding = !adding">
          {{ t('course.add') }}
        </el-button>
        <router-link :to="{ name: 'roster' }">{{ t('roster.import') }}</router-link>
        <router-link v-if="me.data.value.coordinator" :to="{ name: 'terms' }">{{ t('place.terms') }}</router-link>
        <el-input
          v-if="list.data.value.courses.length > 8"
          v-model="find"
          class="find push"
          type="search"
          :aria-label="t('course.find')"
          :placeholder="t('course.find')"
        />
      </p>
      <form v-if="adding" class="page" @submit.prevent="add">
        <FormText v-model="code" :label="t('course.code')" :fault="fields.code" placeholder="TID 210" />
        <FormText v-model="title" :label="t('course.title')" :fault="fields.title" size="wide" />
        <FaultNote v-if="whole" :error="whole" />
        <el-button type="primary" native-type="submit" :disabled="busy">{{ t('course.add') }}</el-button>
      </form>
      <p v-if="list.data.value.courses.length === 0" class="page">{{ t('course.none') }}</p>
      <p v-else-if="shown.length === 0" class="page">{{ t('course.none_found', { words: find }) }}</p>
      <ul v-else class="page line-list">
        <li v-for="c in shown" :key="c.id">
          <span class="name">
            <router-link :to="{ name: 'course', params: { course: c.id } }"
              ><b>{{ c.code }}</b> {{ c.title }}</router-link
            >
            <span class="soft small">{{ c.lecturers.join(', ') }}</span>
          </span>
          <span v-if="c.next" class="next" :class="{ now: c.next.state === 'on' || c.next.state === 'today' }">
            <router-link :to="{ name: 'lecture', params: { lecture: c.next.id } }">{{ when(c.next) }}</router-link>
          </span>
          <span v-else-if="c.role !== 'student'" class="next">
            <router-link :to="{ name: 'plan', params: { course: c.id } }">{{ t('course.plan_first') }}</router-link>
          </span>
          <span class="soft small count">{{ t('course.students', { n: c.students }, c.students) }}</span>
        </li>
      </ul>
    </template>
  </section>
</template>

<style scoped>
.narrow {
  max-width: 1000px;
}

form {
  max-width: 520px;
  margin-bottom: 16px;
}

.name {
  display: flex;
  flex: 1 1 300px;
  flex-direction: column;
}

.next {
  flex: 0 1 330px;
}

.now {
  font-weight: 700;
}

.count {
  flex: 0 0 90px;
  text-align: end;
}
</style>
