<script setup lang="ts">
/** Terms and halls: when and where there is teaching. */
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'
import { useMe } from '../../api/me'
import { useTermChange, useTerms } from '../../api/timetable'
import FaultNote from '../../parts/FaultNote.vue'
import FeedLine from '../common/FeedLine.vue'
import FormText from '../../parts/FormText.vue'
import UndoLine from '../../parts/UndoLine.vue'
import { useForm, type Done } from '../../parts/form'
import { nameTab } from '../../router'
import { dayText } from '../../parts/days'
import CollegeNotice from './CollegeNotice.vue'
import EmbedSites from './EmbedSites.vue'
import TermForm from './TermForm.vue'

const { t } = useI18n()
const me = useMe()
/** Coordinators change terms and halls; everyone else reads them. */
const may = computed(() => me.data.value?.coordinator ?? false)
const list = useTerms()
const change = useTermChange()
const editing = ref('')
/** How a term was changed last. */
const done = ref<Done>()
const hall = ref('')
const renaming = ref('')
const newName = ref('')
const feed = ref('')
const adding = useForm()
const names = useForm()
nameTab(t('place.terms'))

function close(kept?: Done) {
  editing.value = ''
  done.value = kept
}

async function addHall() {
  if (await adding.send(() => change.mutateAsync({ do: 'hall', name: hall.value }))) hall.value = ''
}

async function rename(id: string) {
  if (await names.send(() => change.mutateAsync({ do: 'hall', id, name: newName.value }))) renaming.value = ''
}

function startRename(h: Schemas['HallLine']) {
  renaming.value = h.id
  newName.value = h.name
  names.problem.value = undefined
}
const remove = (what: 'remove_term' | 'remove_hall', id: string) =>
  names.send(() => change.mutateAsync({ do: what, id }))
</script>

<template>
  <FaultNote v-if="list.error.value && !list.data.value" :error="list.error.value" again @again="list.refetch()" />
  <section v-if="list.data.value" class="narrow">
    <h1>{{ t('place.terms') }}</h1>
    <FaultNote v-if="names.whole.value" :error="names.whole.value" />
    <h2>{{ t('term.terms') }}</h2>
    <div class="page">
      <p v-if="list.data.value.terms.length === 0">{{ t('term.none') }}</p>
      <ul class="line-list">
        <li v-for="x in list.data.value.terms" :key="x.id">
          <template v-if="editing !== x.id">
            <span class="what">
              <b>{{ x.term.name }}</b>
              <span v-if="x.now" class="soft small">{{ t('term.shown') }}</span>
              <span class="soft">
                {{ t('term.days', { from: dayText(x.term.first_day), to: dayText(x.term.last_day) }) }}
                {{ t('term.weeks', { n: x.weeks }, x.weeks) }} {{ x.term.zone }}
                <template v-for="b in x.term.breaks" :key="b.first_day">
                  {{ t('term.break', { name: b.name, from: dayText(b.first_day), to: dayText(b.last_day) }) }}
                </template>
              </span>
            </span>
            <span v-if="may" class="push bar-of-acts">
              <el-button link :aria-label="t('term.change_it', { name: x.term.name })" @click="editing = x.id">
                {{ t('change') }}
              </el-button>
              <el-button
                v-if="x.courses === 0"
                link
                :aria-label="t('term.remove_it', { name: x.term.name })"
                @click="remove('remove_term', x.id)"
              >
                {{ t('remove') }}
              </el-button>
            </span>
          </template>
          <TermForm v-else :id="x.id" :term="x.term" @close="close" />
        </li>
      </ul>
      <UndoLine v-if="done" v-bind="done" :key="done.key" />
      <TermForm v-if="editing === 'new'" @close="editing = ''" />
      <el-button v-else-if="may" @click="editing = 'new'">{{ t('term.add') }}</el-button>
    </div>
    <h2>{{ t('term.halls') }}</h2>
    <div class="page">
      <p v-if="list.data.value.halls.length === 0">{{ t('term.no_halls') }}</p>
      <ul class="line-list">
        <li v-for="h in list.data.value.halls" :key="h.id">
          <template v-if="renaming !== h.id">
            <span class="hall"
              ><b>{{ h.name }}</b
              ><span class="soft small">{{ t('term.lectures', { n: h.lectures }, h.lectures) }}</span></span
            >
            <span class="push bar-of-acts">
              <el-button
                link
                :aria-label="t('term.feed_of', { name: h.name })"
                @click="feed = feed === h.id ? '' : h.id"
              >
                {{ t('feed.name') }}
              </el-button>
              <el-button v-if="may" link :aria-label="t('term.change_it', { name: h.name })" @click="startRename(h)">
                {{ t('change') }}
              </el-button>
              <el-button
                v-if="may && h.lectures === 0"
                link
                :aria-label="t('term.remove_it', { name: h.name })"
                @click="remove('remove_hall', h.id)"
              >
                {{ t('remove') }}
              </el-button>
            </span>
            <FeedLine v-if="feed === h.id" class="feed" :of="{ kind: 'hall', id: h.id }" />
          </template>
          <form v-else class="bar-of-acts" @submit.prevent="rename(h.id)">
            <FormText v-model="newName" :label="t('term.hall')" :fault="names.fields.value.name" inline />
            <el-button type="primary" native-type="submit">{{ t('keep') }}</el-button>
            <el-button link @click="renaming = ''">{{ t('leave') }}</el-button>
          </form>
        </li>
      </ul>
      <form v-if="may" class="bar-of-acts" @submit.prevent="addHall">
        <FormText
          v-model="hall"
          :label="t('term.hall')"
          :fault="adding.fields.value.name"
          inline
          :placeholder="t('term.hall')"
        />
        <el-button native-type="submit">{{ t('term.add_hall') }}</el-button>
      </form>
      <FaultNote v-if="adding.whole.value" :error="adding.whole.value" />
    </div>
    <template v-if="may">
      <CollegeNotice />
      <EmbedSites />
      <p>
        <router-link :to="{ name: 'college-rule' }">{{ t('rule.college') }}</router-link>
      </p>
    </template>
    <p v-else class="soft">{{ t('term.who') }}</p>
  </section>
</template>

<style scoped>
.narrow {
  max-width: 900px;
}

h2 {
  margin: 18px 0 6px;
}

.what {
  flex: 1 1 400px;
}

.what {
  display: flex;
  flex-wrap: wrap;
  gap: 0 10px;
  align-items: baseline;
}

.hall {
  display: flex;
  gap: 10px;
  align-items: baseline;
}

.feed {
  flex-basis: 100%;
}

form {
  margin-top: 10px;
}
</style>
