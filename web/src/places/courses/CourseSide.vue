<script setup lang="ts">
/** What else belongs to a course: its standing room, its people, its feed. */
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRouter } from 'vue-router'
import type { Schemas } from '../../api/client'
import { useMe } from '../../api/me'
import { trimEnds } from '../../api/bench'
import { keepOriginals } from '../../api/files'
import { keys } from '../../api/queries'
import { changeCourse, removeCourse } from '../../api/timetable'
import FaultNote from '../../parts/FaultNote.vue'
import FeedLine from '../common/FeedLine.vue'
import ChoiceList from '../../parts/ChoiceList.vue'
import FormSlot from '../../parts/FormSlot.vue'
import FormText from '../../parts/FormText.vue'
import { useForm } from '../../parts/form'
import { useQueryClient } from '@tanstack/vue-query'

const props = defineProps<{ page: Schemas['CoursePage'] }>()
const { t } = useI18n()
const me = useMe()
const router = useRouter()
const client = useQueryClient()
const course = computed(() => ({ course: props.page.id }))
const editing = ref(false)
const code = ref('')
const title = ref('')
const { busy, fields, whole, send } = useForm()

function edit() {
  editing.value = !editing.value
  code.value = props.page.code
  title.value = props.page.title
}

async function keep() {
  const page = await send(() => changeCourse(props.page.id, props.page.term_id, code.value, title.value))
  if (!page) return
  editing.value = false
  void client.invalidateQueries()
}

/** For how many days originals are kept: the usual choices, and what is kept now. */
const keeping = useForm()
const spans = computed(() => [...new Set([0, 30, 90, 365, props.page.original_days])].sort((a, b) => a - b))
const originalFault = computed(() => keeping.fields.value.days)

async function keepOriginalsFor(days: number) {
  if (await keeping.send(() => keepOriginals(props.page.id, days)))
    void client.invalidateQueries({ queryKey: keys.course(props.page.id) })
}

async function keepTrims(trims: boolean) {
  if (await keeping.send(() => trimEnds(props.page.id, trims)))
    void client.invalidateQueries({ queryKey: keys.course(props.page.id) })
}

async function remove() {
  await send(async () => {
    await removeCourse(props.page.id)
    await router.push({ name: 'courses' })
    void client.invalidateQueries({ queryKey: ['courses'] })
  })
}
</script>

<template>
  <aside class="side">
    <section>
      <h2>{{ t('room.name') }}</h2>
      <p class="soft small">{{ t('room.help') }}</p>
      <router-link :to="{ name: 'room', params: course }">{{ t('room.open') }}</router-link>
    </section>
    <section v-if="page.staff">
      <h2>{{ t('people.name') }}</h2>
      <ul class="plain">
        <li>
          <router-link :to="{ name: 'course-people', params: course }">{{
            t('course.students', { n: page.students }, page.students)
          }}</router-link>
        </li>
      </ul>
    </section>
    <section v-if="page.staff">
      <h2>{{ t('course.recordings') }}</h2>
      <ul class="plain">
        <li>
          <router-link :to="{ name: 'rule', params: course }">{{ t('board.rule') }}</router-link>
        </li>
        <li>
          <router-link :to="{ name: 'playlist', params: course }">{{ t('board.playlist') }}</router-link>
        </li>
        <li>
          <router-link :to="{ name: 'titles', query: course }">{{ t('titles.name') }}</router-link>
        </li>
        <li>
          <router-link :to="{ name: 'course-words', params: course }">{{ t('course_words.open') }}</router-link>
        </li>
      </ul>
    </section>
    <section v-if="page.staff">
      <h2>{{ t('trims.name') }}</h2>
      <el-checkbox
        class="trims"
        :model-value="page.trim_ends"
        :disabled="keeping.busy.value"
        @change="keepTrims(Boolean($event))"
        >{{ t('trims.label') }}</el-checkbox
      >
      <p class="soft small">{{ t('trims.help') }}</p>
    </section>
    <section v-if="page.staff">
      <h2>{{ t('originals.name') }}</h2>
      <FormSlot v-slot="{ id }" :label="t('originals.help')" :fault="originalFault">
        <ChoiceList
          :id="id"
          :model-value="page.original_days"
          :label="t('originals.name')"
          :disabled="keeping.busy.value"
          :options="spans.map((n) => ({ value: n, text: n ? t('originals.days', { n }) : t('originals.ever') }))"
          @update:model-value="keepOriginalsFor"
        />
      </FormSlot>
    </section>
    <section>
      <h2>{{ t('feed.name') }}</h2>
      <template v-if="page.staff">
        <p class="soft small">{{ t('feed.course') }}</p>
        <FeedLine :of="{ kind: 'course', id: page.id }" />
        <p class="small file">
          <a :href="`/api/courses/${page.id}/timetable`" download>{{ t('feed.file') }}</a>
        </p>
      </template>
      <template v-else>
        <p class="soft small">{{ t('feed.own') }}</p>
        <FeedLine :of="{ kind: 'own' }" />
      </template>
    </section>
    <section v-if="me.data.value?.coordinator">
      <h2>{{ t('course.itself') }}</h2>
      <el-button link :aria-expanded="editing" @click="edit">{{ t('course.rename') }}</el-button>
      <form v-if="editing" @submit.prevent="keep">
        <FormText v-model="code" :label="t('course.code')" :fault="fields.code" />
        <FormText v-model="title" :label="t('course.title')" :fault="fields.title" size="wide" />
        <div class="bar-of-acts">
          <el-button type="primary" native-type="submit" :disabled="busy">{{ t('keep') }}</el-button>
          <el-button v-if="page.dates.length === 0 && page.students === 0" link :disabled="busy" @click="remove">
            {{ t('course.remove') }}
          </el-button>
        </div>
      </form>
      <FaultNote v-if="whole" :error="whole" />
    </section>
  </aside>
</template>

<style scoped>
.trims {
  align-items: flex-start;
}

.side section {
  padding: 14px 0;
  border-bottom: 1px solid var(--rule);
}

.side h2 {
  margin-bottom: 4px;
  font-size: 16px;
}

li {
  padding: 3px 0;
}

.file a {
  display: inline-block;
  line-height: 24px;
}
</style>
