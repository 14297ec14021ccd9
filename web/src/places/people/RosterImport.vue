<script setup lang="ts">
/** A roster brought in from files: first what would change, with every bad line; applied only when confirmed. */
import { useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'
import { useMe } from '../../api/me'
import { importRoster, previewRoster } from '../../api/people'
import { useTerms } from '../../api/timetable'
import ChoiceList from '../../parts/ChoiceList.vue'
import FaultNote from '../../parts/FaultNote.vue'
import FilePick from '../../parts/FilePick.vue'
import LineFaults from '../../parts/LineFaults.vue'
import { base64 } from '../../parts/base64'
import { useForm } from '../../parts/form'
import { nameTab } from '../../router'
import WhoChanges from '../common/WhoChanges.vue'

type Change = Schemas['RosterImport']['changes'][number]
const { t } = useI18n()
const me = useMe()
const client = useQueryClient()
const places = useTerms()
const term = ref('')
const files = ref<Schemas['RosterFile'][]>([])
const found = ref<Schemas['RosterImport']>()
const applied = ref<Schemas['RosterImport']>()
const { busy, problem, send } = useForm()
nameTab(t('roster.title'))

watch(
  () => places.data.value,
  (p) => (term.value ||= p?.terms.find((x) => x.now)?.id ?? ''),
  { immediate: true },
)

const encode = async (file: File): Promise<Schemas['RosterFile']> => ({ name: file.name, data: await base64(file) })

async function choose(list: File[]) {
  found.value = undefined
  applied.value = undefined
  await send(async () => {
    files.value = await Promise.all(list.map(encode))
    await look()
  })
}

async function look() {
  found.value = await previewRoster(term.value, files.value)
}
watch(term, (_, before) => (before && files.value.length > 0 ? void send(look) : undefined))

async function apply() {
  const done = await send(() => importRoster(term.value, files.value, found.value!.digest))
  if (done) {
    applied.value = done
    found.value = undefined
    files.value = []
    void client.invalidateQueries()
  }
}

const counts = computed(() => {
  const f = found.value
  if (!f) return []
  const all = [
    ['enrolled', f.enrolled],
    ['changed', f.changed],
    ['taken_off', f.taken_off],
    ['people', f.people],
    ['renamed', f.renamed],
    ['courses', f.courses],
    ['unchanged', f.unchanged],
  ] as const
  return all.filter(([, n]) => n > 0)
})
const ok = computed(() => found.value && found.value.faults_all === 0)
</script>

<template>
  <section class="narrow">
    <h1>{{ t('roster.title') }}</h1>
    <p>{{ t('roster.text') }}</p>
    <p class="soft small">
      {{ t('roster.form') }} <code class="mono">email,name,course,part,group</code>. {{ t('roster.form_oneroster') }}
    </p>
    <FaultNote v-if="places.error.value" :error="places.error.value" again @again="places.refetch()" />
    <p v-if="places.data.value?.terms.length === 0" class="page">{{ t('board.no_term') }}</p>
    <div v-else-if="places.data.value" class="page bar-of-acts">
      <ChoiceList
        v-model="term"
        :label="t('roster.term')"
        :options="places.data.value.terms.map((x) => ({ value: x.id, text: x.term.name }))"
      />
      <FilePick :text="t('roster.choose')" accept=".csv,.zip,text/csv,application/zip" multiple @files="choose" />
      <span class="push small">
        <template v-if="me.data.value?.coordinator && term">
          {{ t('roster.export') }}
          <a :href="`/api/terms/${term}/roster?form=sheet`" download>{{ t('roster.sheet') }}</a> ·
          <a :href="`/api/terms/${term}/roster?form=oneroster`" download>{{ t('roster.oneroster') }}</a>
        </template>
      </span>
    </div>
    <p v-if="busy" role="status">{{ t('roster.reading') }}</p>
    <template v-if="problem">
      <FaultNote :error="problem" />
      <el-button v-if="files.length > 0" @click="send(look)">
        {{ t('roster.look') }}
      </el-button>
    </template>
    <p v-if="applied" class="page" role="status">
      <b>{{ t('roster.applied') }}</b>
      {{ t('roster.applied_what', { enrolled: applied.enrolled, changed: applied.changed, off: applied.taken_off }) }}
      <template v-if="applied.people > 0">
        {{ t('roster.now_invite') }}
        <router-link v-if="me.data.value?.coordinator" :to="{ name: 'people' }">{{ t('place.people') }}</router-link>
      </template>
    </p>
    <template v-if="found">
      <LineFaults
        v-if="found.faults_all > 0"
        :list="found.faults"
        :all="found.faults_all"
        :title="t('roster.faults', { n: found.faults_all }, found.faults_all)"
        grave
      />
      <div class="page result">
        <div class="bar-of-acts">
          <div role="status">
            <h2>{{ found.empty ? t('roster.nothing') : t(ok ? 'roster.would' : 'roster.would_not') }}</h2>
          </div>
          <el-button v-if="ok && !found.empty" type="primary" class="push" :disabled="busy" @click="apply">
            {{ t('roster.apply') }}
          </el-button>
        </div>
        <p v-if="found.speaks.length > 0" class="soft">
          {{ t('roster.speaks', { courses: found.speaks.slice(0, 12).join(', ') }) }}
          <template v-if="found.speaks.length > 12">{{
            t('roster.and_more', { n: found.speaks.length - 12 })
          }}</template>
        </p>
        <ul class="plain counts">
          <li v-for="[kind, n] in counts" :key="kind" :class="{ strong: kind === 'taken_off' }">
            {{ t(`roster.n_${kind}`, { n }, n) }}
          </li>
        </ul>
        <template v-if="!found.empty && ok">
          <p v-if="!found.effect" class="soft">{{ t('roster.no_effect') }}</p>
          <WhoChanges v-else :change="{ ...found.effect, more: [], less: [] }" />
        </template>
        <el-table
          v-if="found.changes.length > 0"
          :data="found.changes"
          :row-class-name="({ row: c }: { row: Change }) => (c.kind === 'take_off' ? 'strong' : '')"
        >
          <el-table-column v-slot="{ row: c }" :label="t('roster.what')" width="130">{{
            t(`roster.${c.kind}`)
          }}</el-table-column>
          <el-table-column prop="course" :label="t('roster.course')" width="110" />
          <el-table-column prop="email" :label="t('people.email')" min-width="200" />
          <el-table-column v-slot="{ row: c }" :label="t('roster.before')" min-width="130"
            ><span :class="{ gone: c.before && c.kind !== 'enrol' }">{{ c.before }}</span></el-table-column
          >
          <el-table-column prop="after" :label="t('roster.after')" min-width="130" />
        </el-table>
      </div>
      <LineFaults v-if="found.notes.length > 0" :list="found.notes" :all="found.notes_all" :title="t('roster.notes')" />
    </template>
  </section>
</template>

<style scoped>
.narrow {
  max-width: 1000px;
}

.result {
  margin-top: 14px;
}

.counts {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 22px;
  margin: 6px 0 12px;
}

.strong,
.el-table :deep(.strong) {
  font-weight: 700;
}
</style>
