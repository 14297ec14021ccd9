<script setup lang="ts">
/** The roster of a course: who is in it, in which role, and whose account is not yet active. */
import { computed, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute } from 'vue-router'
import { Problem, type Schemas } from '../../api/client'
import { invite, useCoursePeople, useRosterChange } from '../../api/people'
import { useCourse } from '../../api/timetable'
import FaultNote from '../../parts/FaultNote.vue'
import ChoiceList from '../../parts/ChoiceList.vue'
import FormSlot from '../../parts/FormSlot.vue'
import FormText from '../../parts/FormText.vue'
import UndoLine from '../../parts/UndoLine.vue'
import { useForm } from '../../parts/form'
import SortHead from '../../parts/SortHead.vue'
import { useSorting } from '../../parts/sorting'
import { nameTab } from '../../router'
import CourseHead from '../common/CourseHead.vue'
import AccountState from './AccountState.vue'
import TakingOff from './TakingOff.vue'

type Member = Schemas['MemberLine']
const props = defineProps<{ course: string }>()
const { t } = useI18n()
const route = useRoute()
const page = useCourse(() => props.course)
const list = useCoursePeople(() => props.course)
const change = useRosterChange(() => props.course)
const post = useForm()
const adding = ref(false)
const off = ref<Member>()
/** Who is to be taken off, once it was seen what that changes. */
const leaving = ref<Member>()
const sent = ref<number>()
const inactiveOnly = ref(false)
const words = ref(String(route.query.words ?? ''))
// Whoever looks for another person from here comes to the same page.
watch(
  () => route.query.words,
  (w) => (words.value = String(w ?? '')),
)
const fresh = (): Schemas['MemberText'] => ({ email: '', name: '', role: 'student', group: '' })
const form = ref(fresh())
const roles = ['student', 'assistant', 'lecturer'] as const
nameTab(t('people.name'))

/** Nobody gets a letter again who never had one. */
const invitedOnce = computed(() => (list.data.value?.people ?? []).some((m) => !m.active && m.invited_at))
const shown = computed(() => {
  const all = words.value.toLowerCase().trim()
  return (list.data.value?.people ?? []).filter(
    (m) => (!inactiveOnly.value || !m.active) && `${m.name} ${m.email} ${m.group}`.toLowerCase().includes(all),
  )
})
const { sorted, list: lines } = useSorting(() => shown.value, {
  name: (m: Member) => m.name,
  email: (m) => m.email,
  role: (m) => t(`role.${m.role}`),
  group: (m) => m.group,
  account: (m) => (m.active ? '2' : (m.invited_at ?? '1')),
})
const fields = computed<Record<string, string>>(() => {
  const e = change.error.value
  return e instanceof Problem ? e.fields : {}
})

async function enrol() {
  await change.mutateAsync({ enrol: form.value })
  form.value = fresh()
}

async function takeOff(m: Member) {
  await change.mutateAsync({ off: m.id })
  off.value = m
}

async function send(people: string[] | undefined, again: boolean) {
  const done = await post.send(() => invite(props.course, people, again))
  sent.value = done?.sent
  if (done) void list.refetch()
}
const back = (m: Member) =>
  change.mutateAsync({ enrol: { email: m.email, name: m.name, role: m.role, group: m.group } })
const fileOf = (form: string) => `/api/courses/${props.course}/roster?form=${form}`
</script>

<template>
  <FaultNote v-if="list.error.value && !list.data.value" :error="list.error.value" again @again="list.refetch()" />
  <CourseHead v-if="page.data.value" :course="page.data.value" :staff="page.data.value.staff" />
  <section v-if="list.data.value" class="narrow">
    <p v-if="list.data.value.inactive > 0" class="page waits">
      <span>{{ t('people.inactive', { n: list.data.value.inactive }, list.data.value.inactive) }}</span>
      <el-button type="primary" :disabled="post.busy.value" @click="send(undefined, true)">
        {{ t(invitedOnce ? 'people.invite_all' : 'people.invite_each') }}
      </el-button>
    </p>
    <p v-if="sent !== undefined" role="status">{{ t('people.sent', { n: sent }, sent) }}</p>
    <FaultNote v-if="post.problem.value" :error="post.problem.value" />
    <TakingOff
      v-if="leaving"
      :key="leaving.id"
      :course="course"
      :person="leaving"
      :off="() => takeOff(leaving!)"
      @close="leaving = undefined"
    />
    <UndoLine v-if="off" :key="off.id" :text="t('people.off', { name: off.name })" :undo="() => back(off!)" />
    <p class="bar-of-acts">
      <el-button :aria-expanded="adding" @click="adding = !adding">
        {{ t('people.add') }}
      </el-button>
      <router-link :to="{ name: 'roster' }">{{ t('roster.import') }}</router-link>
      <span
        >{{ t('roster.export') }} <a :href="fileOf('sheet')" download>{{ t('roster.sheet') }}</a> ·
        <a :href="fileOf('oneroster')" download>{{ t('roster.oneroster') }}</a></span
      >
      <el-input
        v-if="list.data.value.people.length > 8"
        v-model="words"
        class="find"
        type="search"
        :aria-label="t('people.find')"
        :placeholder="t('people.find')"
      />
      <el-checkbox v-if="list.data.value.inactive > 0" v-model="inactiveOnly" class="push">{{
        t('people.only_inactive')
      }}</el-checkbox>
    </p>
    <form v-if="adding" class="page bar-of-acts add" @submit.prevent="enrol().catch(() => undefined)">
      <FormText v-model="form.email" :label="t('people.email')" :fault="fields.email" />
      <FormText v-model="form.name" :label="t('people.person')" :fault="fields.name" />
      <FormSlot v-slot="x" :label="t('people.role')" :fault="fields.role">
        <ChoiceList
          :id="x.id"
          v-model="form.role"
          :label="t('people.role')"
          :options="roles.map((p) => ({ value: p, text: t(`role.${p}`) }))"
        />
      </FormSlot>
      <FormSlot v-slot="x" :label="t('people.group')" :fault="fields.group">
        <ChoiceList
          :id="x.id"
          v-model="form.group"
          :label="t('people.group')"
          :options="['', ...list.data.value.groups].map((g) => ({ value: g, text: g || t('people.no_group') }))"
          create
        />
      </FormSlot>
      <el-button type="primary" native-type="submit" :disabled="change.isPending.value">{{
        t('people.enrol')
      }}</el-button>
      <FaultNote v-if="change.error.value && Object.keys(fields).length === 0" :error="change.error.value" />
    </form>
    <p v-if="list.data.value.people.length === 0" class="page">{{ t('people.none') }}</p>
    <div v-else class="page">
      <el-table :data="lines" row-key="id" :empty-text="t('people.none_found')">
        <el-table-column prop="name" min-width="150">
          <template #header><SortHead v-model="sorted" by="name" :text="t('people.person')" /></template>
        </el-table-column>
        <el-table-column prop="email" min-width="210" class-name="soft">
          <template #header><SortHead v-model="sorted" by="email" :text="t('people.email')" /></template>
        </el-table-column>
        <el-table-column width="110">
          <template #header><SortHead v-model="sorted" by="role" :text="t('people.role')" /></template>
          <template #default="{ row: m }">{{ t(`role.${(m as Member).role}`) }}</template>
        </el-table-column>
        <el-table-column prop="group" width="110">
          <template #header><SortHead v-model="sorted" by="group" :text="t('people.group')" /></template>
        </el-table-column>
        <el-table-column min-width="220">
          <template #header><SortHead v-model="sorted" by="account" :text="t('people.account')" /></template>
          <template #default="{ row: m }">
            <AccountState
              :name="m.name"
              :active="m.active"
              :invited="m.invited_at"
              :zone="page.data.value?.term.zone ?? 'UTC'"
              @send="send([m.id], true)"
            />
          </template>
        </el-table-column>
        <el-table-column width="110" align="right">
          <template #header
            ><span class="away">{{ t('people.acts') }}</span></template
          >
          <template #default="{ row: m }">
            <el-button link :aria-label="t('people.take_off_it', { name: m.name })" @click="leaving = m as Member">
              {{ t('people.take_off') }}
            </el-button>
          </template>
        </el-table-column>
      </el-table>
    </div>
  </section>
</template>

<style scoped>
.find.find.find {
  width: 240px;
}

.narrow {
  max-width: 1060px;
}

.waits {
  display: flex;
  flex-wrap: wrap;
  gap: 10px 20px;
  align-items: center;
}

.add {
  align-items: flex-end;
  margin-bottom: 14px;
}

.add .el-button {
  margin-bottom: 12px;
}

.last {
  text-align: end;
  white-space: nowrap;
}
</style>
