<script setup lang="ts">
/** How a course wants its recordings handled, and what it is called. */
import { useQueryClient } from '@tanstack/vue-query'
import { computed, watchEffect } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRouter } from 'vue-router'
import { Problem } from '../../api/client'
import { trimEnds } from '../../api/bench'
import { keepOriginals } from '../../api/files'
import { useMe } from '../../api/me'
import { keys } from '../../api/queries'
import { changeCourse, remindMissed, removeCourse, seeNames, useCourse } from '../../api/timetable'
import ChoiceList from '../../parts/ChoiceList.vue'
import FaultNote from '../../parts/FaultNote.vue'
import FormSlot from '../../parts/FormSlot.vue'
import FormText from '../../parts/FormText.vue'
import UndoLine from '../../parts/UndoLine.vue'
import { useForm } from '../../parts/form'
import { nameTab } from '../../router'
import CourseHead from '../common/CourseHead.vue'

const props = defineProps<{ course: string }>()
const { t } = useI18n()
const me = useMe()
const router = useRouter()
const client = useQueryClient()
const page = useCourse(() => props.course)
const it = computed(() => page.data.value)
const naming = useForm(() => (it.value?.staff ? { code: it.value.code, title: it.value.title } : undefined))
const { draft: named, done: renamed } = naming
const keeping = useForm()
/** For how many days originals are kept: the usual choices, and what is kept now. */
const spans = computed(() => [...new Set([0, 30, 90, 365, it.value?.original_days ?? 0])].sort((a, b) => a - b))

watchEffect(() => nameTab(it.value ? `${it.value.code} · ${t('course.at.setting')}` : ''))
const again = () => client.invalidateQueries({ queryKey: keys.course(props.course) })

async function keep(change: () => Promise<unknown>) {
  if (await keeping.act(change)) void again()
}

const rename = () =>
  naming.keep(
    (d) => changeCourse(props.course, it.value!.term_id, d.code, d.title),
    t('course.renamed', { ...named.value }),
    () => client.invalidateQueries(),
  )

async function remove() {
  await naming.send(async () => {
    await removeCourse(props.course)
    naming.reset()
    await router.push({ name: 'courses' })
    void client.invalidateQueries({ queryKey: ['courses'] })
  })
}
</script>

<template>
  <FaultNote v-if="page.error.value && !it" :error="page.error.value" again @again="page.refetch()" />
  <CourseHead v-if="it" :course="it" :staff="it.staff" />
  <FaultNote v-if="it && !it.staff" :error="new Problem(403, 'not_staff')" />
  <section v-else-if="it" class="narrow">
    <div class="page">
      <h2>{{ t('trims.name') }}</h2>
      <el-checkbox
        :model-value="it.trim_ends"
        :disabled="keeping.busy.value"
        @change="(yes) => keep(() => trimEnds(course, Boolean(yes)))"
        >{{ t('trims.label') }}</el-checkbox
      >
      <p class="soft small">{{ t('trims.help') }}</p>
      <h2>{{ t('names_seen.name') }}</h2>
      <el-checkbox
        :model-value="it.names_seen"
        :disabled="keeping.busy.value"
        @change="(yes) => keep(() => seeNames(course, Boolean(yes)))"
        >{{ t('names_seen.label') }}</el-checkbox
      >
      <p class="soft small">{{ t('names_seen.help') }}</p>
      <h2>{{ t('reminds.name') }}</h2>
      <el-checkbox
        :model-value="it.reminds"
        :disabled="keeping.busy.value"
        @change="(yes) => keep(() => remindMissed(course, Boolean(yes)))"
        >{{ t('reminds.label') }}</el-checkbox
      >
      <p class="soft small">{{ t('reminds.help') }}</p>
      <h2>{{ t('originals.name') }}</h2>
      <FormSlot v-slot="{ id }" :label="t('originals.help')" :fault="keeping.fields.value.days">
        <ChoiceList
          :id="id"
          :model-value="it.original_days"
          :label="t('originals.name')"
          :disabled="keeping.busy.value"
          :options="spans.map((n) => ({ value: n, text: n ? t('originals.days', { n }) : t('originals.ever') }))"
          @update:model-value="(days) => keep(() => keepOriginals(course, days))"
        />
      </FormSlot>
      <FaultNote v-if="keeping.whole.value" :error="keeping.whole.value" />
      <h2>{{ t('titles.name') }}</h2>
      <p>
        <router-link :to="{ name: 'titles', query: { course } }">{{ t('course.titles') }}</router-link>
      </p>
      <h2>{{ t('carry.heading') }}</h2>
      <p>
        <router-link :to="{ name: 'carry', params: { course } }">{{ t('carry.name') }}</router-link>
      </p>
      <template v-if="me.data.value?.coordinator">
        <h2>{{ t('course.itself') }}</h2>
        <form v-if="named" @submit.prevent="rename">
          <FormText v-model="named.code" :label="t('course.code')" :fault="naming.fields.value.code" />
          <FormText v-model="named.title" :label="t('course.title')" :fault="naming.fields.value.title" size="wide" />
          <div class="bar-of-acts">
            <el-button native-type="submit" :disabled="naming.busy.value || !naming.changed.value">{{
              t('course.rename')
            }}</el-button>
            <el-button v-if="it.dates.length === 0 && it.students === 0" link @click="remove">
              {{ t('course.remove') }}
            </el-button>
          </div>
        </form>
        <UndoLine v-if="renamed" v-bind="renamed" :key="renamed.key" />
        <FaultNote v-if="naming.whole.value" :error="naming.whole.value" />
      </template>
    </div>
  </section>
</template>

<style scoped>
.narrow {
  max-width: 760px;
}

h2:not(:first-child) {
  margin-top: 26px;
}

h2 {
  margin-bottom: 4px;
}
</style>
