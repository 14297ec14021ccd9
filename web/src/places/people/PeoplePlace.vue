<script setup lang="ts">
/** All people of the college, for its coordinators. */
import { useDebounceFn } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute } from 'vue-router'
import type { Schemas } from '../../api/client'
import { useMe } from '../../api/me'
import { addPerson, endSessions, invite, setClosed, setCoordinator, usePeople } from '../../api/people'
import { useTerm } from '../../api/timetable'
import FaultNote from '../../parts/FaultNote.vue'
import FormText from '../../parts/FormText.vue'
import UndoLine from '../../parts/UndoLine.vue'
import { useForm } from '../../parts/form'
import { nameTab } from '../../router'
import AccountState from './AccountState.vue'
import AstrayPart from './AstrayPart.vue'

const { t } = useI18n()
const route = useRoute()
const me = useMe()
const term = useTerm()
const typed = ref(String(route.query.words ?? ''))
const words = ref(typed.value)
const inactive = ref(false)
const settle = useDebounceFn(() => (words.value = typed.value), 200)
watch(typed, () => void settle())
// Whoever looks for another person from here comes to the same page.
watch(
  () => route.query.words,
  (w) => (typed.value = String(w ?? '')),
)
const list = usePeople(words, () => inactive.value)
const page = computed(() => list.data.value as Schemas['PeopleList'] | undefined)
const adding = ref(false)
const email = ref('')
const name = ref('')
const sent = ref<number>()
/** What was done last, and how it is taken back. */
const done = ref<{ key: string; text: string; undo: () => Promise<unknown> }>()
const ended = ref('')
const form = useForm()
const acts = useForm()
const zone = computed(() => term.data.value?.zone ?? 'UTC')
nameTab(t('place.people'))

async function add() {
  const added = await form.send(() => addPerson(email.value, name.value))
  if (!added) return
  typed.value = email.value
  email.value = ''
  name.value = ''
  void list.refetch()
}

async function send(people: string[] | undefined, again: boolean) {
  const answer = await acts.send(() => invite(undefined, people, again))
  sent.value = answer?.sent
  void list.refetch()
}

/** act does something that can be taken back, and offers that. */
async function act(key: string, text: string, to: (yes: boolean) => Promise<unknown>, yes: boolean) {
  ended.value = ''
  const good = await acts.act(() => to(yes))
  if (good) done.value = { key: key + yes, text, undo: () => to(!yes).then(() => list.refetch()) }
  void list.refetch()
}

const coordinate = (p: Schemas['PersonLine'], yes: boolean) =>
  act(
    `coordinator ${p.id}`,
    t(yes ? 'people.made_coordinator' : 'people.no_coordinator', { name: p.name }),
    (to) => setCoordinator(p.id, to),
    yes,
  )

const close = (p: Schemas['PersonLine'], yes: boolean) =>
  act(
    `closed ${p.id}`,
    t(yes ? 'people.now_closed' : 'people.now_open', { name: p.name }),
    (to) => setClosed(p.id, to),
    yes,
  )

async function end(p: Schemas['PersonLine']) {
  done.value = undefined
  const good = await acts.act(() => endSessions(p.id))
  ended.value = good ? t('people.sessions_ended', { name: p.name }) : ''
}
</script>

<template>
  <section class="narrow">
    <h1>{{ t('place.people') }}</h1>
    <FaultNote v-if="list.error.value && !page" :error="list.error.value" again @again="list.refetch()" />
    <p class="bar-of-acts">
      <el-input
        v-model="typed"
        class="find"
        type="search"
        :aria-label="t('people.find')"
        :placeholder="t('people.find')"
      />
      <el-checkbox v-model="inactive">{{ t('people.only_inactive') }}</el-checkbox>
      <el-button class="push" :aria-expanded="adding" @click="adding = !adding">
        {{ t('people.add_college') }}
      </el-button>
      <router-link :to="{ name: 'roster' }">{{ t('roster.import') }}</router-link>
      <el-button link :disabled="acts.busy.value" @click="send(undefined, false)">
        {{ t('people.invite_new') }}
      </el-button>
    </p>
    <form v-if="adding" class="page bar-of-acts add" @submit.prevent="add">
      <FormText v-model="email" :label="t('people.email')" :fault="form.fields.value.email" />
      <FormText v-model="name" :label="t('people.person')" :fault="form.fields.value.name" />
      <el-button type="primary" native-type="submit" :disabled="form.busy.value">{{ t('people.add_it') }}</el-button>
      <FaultNote v-if="form.whole.value" :error="form.whole.value" />
    </form>
    <p v-if="sent !== undefined" role="status">{{ t('people.sent', { n: sent }, sent) }}</p>
    <FaultNote v-if="acts.problem.value" :error="acts.problem.value" />
    <UndoLine v-if="done" :key="done.key" :text="done.text" :undo="done.undo" />
    <p v-if="ended" role="status">{{ ended }}</p>
    <AstrayPart :zone="zone" />
    <template v-if="page">
      <p v-if="page.people.length === 0" class="page">{{ t('people.none_found') }}</p>
      <div v-else class="page">
        <el-table :data="page.people" row-key="id">
          <el-table-column prop="name" :label="t('people.person')" min-width="150" />
          <el-table-column prop="email" :label="t('people.email')" min-width="210" class-name="soft" />
          <el-table-column prop="courses" :label="t('people.courses')" width="90" class-name="mono" />
          <el-table-column v-slot="{ row: p }" :label="t('people.account')" min-width="330">
            <AccountState
              :name="p.name"
              :active="p.active"
              :closed="p.closed"
              :invited="p.invited_at"
              :zone="zone"
              @send="send([p.id], true)"
            />
            <span v-if="p.id !== me.data.value?.id" class="acts">
              <el-button
                v-if="p.active && !p.closed"
                link
                :aria-label="t('people.end_sessions_it', { name: p.name })"
                @click="end(p as Schemas['PersonLine'])"
                >{{ t('people.end_sessions') }}</el-button
              >
              <el-button
                link
                :aria-label="t(p.closed ? 'people.open_it' : 'people.close_it', { name: p.name })"
                @click="close(p as Schemas['PersonLine'], !p.closed)"
                >{{ t(p.closed ? 'people.open' : 'people.close') }}</el-button
              >
            </span>
          </el-table-column>
          <el-table-column v-slot="{ row: p }" :label="t('people.coordinates')" min-width="190">
            <template v-if="p.coordinator">{{ t('people.is_coordinator') }} </template>
            <el-button
              v-if="p.id !== me.data.value?.id"
              link
              :aria-label="t(p.coordinator ? 'people.end_it' : 'people.name_it', { name: p.name })"
              @click="coordinate(p as Schemas['PersonLine'], !p.coordinator)"
            >
              {{ t(p.coordinator ? 'people.end' : 'people.name_coordinator') }}
            </el-button>
          </el-table-column>
        </el-table>
        <p v-if="page.all > page.people.length" class="soft">
          {{ t('people.more', { n: page.people.length, all: page.all }) }}
        </p>
      </div>
    </template>
  </section>
</template>

<style scoped>
.narrow {
  max-width: 1100px;
}

.find {
  width: 300px;
}

.acts {
  display: inline-flex;
  gap: 12px;
  margin-inline-start: 12px;
}

.add {
  align-items: flex-end;
  margin-bottom: 14px;
}

.add .el-button {
  margin-bottom: 12px;
}
</style>
