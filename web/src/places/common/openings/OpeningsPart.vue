<script setup lang="ts">
/** To whom a recording is open beside any course, people, everyone here, holders of a link; of a playlist its links. */
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { useOpeningChange, useOpenings, type Opening, type OpeningForm, type Opens } from '../../../api/openings'
import FaultNote from '../../../parts/FaultNote.vue'
import { useForm } from '../../../parts/form'
import UndoLine from '../../../parts/UndoLine.vue'
import OpeningEntry from './OpeningEntry.vue'

const props = defineProps<{ course: string; of: Opens }>()
const { t } = useI18n()
/** Of a playlist there are links alone. */
const list = computed(() => 'list' in props.of)
const page = useOpenings(() => props.of)
const change = useOpeningChange(() => props.of)
/** An opening that is being made. */
const draft = ref<OpeningForm>()
const { problem, done, act, said } = useForm()

const begin = (kind: Opening['kind']) => {
  draft.value = { kind, people: [], uses: ['watch', 'read'], from: 'once', until: 'term', days_after_term: 30 }
}

async function takeBack(id: string) {
  if (!(await act(() => change.mutateAsync({ do: 'take_back', id })))) return void page.refetch()
  said(t('opening.taken_back'), () => change.mutateAsync({ do: 'again', id }))
}
</script>

<template>
  <section id="openings" class="openings" :class="{ within: list }">
    <h2 v-if="!list">
      {{ page.data.value?.title ? t('opening.title', { title: page.data.value.title }) : t('opening.title_none') }}
    </h2>
    <FaultNote v-if="page.error.value && !page.data.value" :error="page.error.value" again @again="page.refetch()" />
    <template v-if="page.data.value">
      <p v-if="page.data.value.openings.length === 0" class="soft">
        {{ t(list ? 'opening.list_text' : 'opening.text') }}
      </p>
      <OpeningEntry
        v-for="o in page.data.value.openings"
        :key="o.id"
        :course="course"
        :of="of"
        :zone="page.data.value.zone"
        :opening="o"
        @take-back="takeBack(o.id)"
      />
      <FaultNote v-if="problem" :error="problem" />
      <UndoLine v-if="done" v-bind="done" :key="done.key" />
      <OpeningEntry
        v-if="draft"
        :key="draft.kind"
        :course="course"
        :of="of"
        :zone="page.data.value.zone"
        :fresh="draft"
        @done="draft = undefined"
      />
      <p v-else class="ways">
        <template v-if="!list">
          <el-button @click="begin('people')">{{ t('opening.to_people') }}</el-button>
          <el-button @click="begin('everyone')">{{ t('opening.to_everyone') }}</el-button>
        </template>
        <el-button @click="begin('link')">{{ t('opening.to_holders') }}</el-button>
      </p>
    </template>
  </section>
</template>

<style scoped>
.openings {
  max-width: 980px;
  margin-top: 34px;
}

.within {
  margin-top: 8px;
}

.ways {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  margin-top: 14px;
}

.ways .el-button {
  margin: 0;
}
</style>
