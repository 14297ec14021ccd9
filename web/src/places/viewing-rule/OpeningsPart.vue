<script setup lang="ts">
/** To whom a recording is open beside any course: named people, everyone here, whoever has a link. */
import { ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { useOpeningChange, useOpenings, type Opening, type OpeningForm } from '../../api/rules'
import FaultNote from '../../parts/FaultNote.vue'
import UndoLine from '../../parts/UndoLine.vue'
import OpeningEntry from './OpeningEntry.vue'

const props = defineProps<{ course: string; recording: string }>()
const { t } = useI18n()
const page = useOpenings(() => props.recording)
const change = useOpeningChange(() => props.recording)
/** An opening that is being made. */
const draft = ref<OpeningForm>()
/** The one that was taken back last. */
const taken = ref('')
const fault = ref<unknown>()

const begin = (kind: Opening['kind']) => {
  draft.value = { kind, people: [], uses: ['watch', 'read'], from: 'once', until: 'term', days_after_term: 30 }
}

async function takeBack(id: string) {
  fault.value = undefined
  try {
    await change.mutateAsync({ do: 'take_back', id })
    taken.value = id
  } catch (e) {
    fault.value = e
    void page.refetch()
  }
}
</script>

<template>
  <section id="openings" class="openings">
    <h2>
      {{ page.data.value?.title ? t('opening.title', { title: page.data.value.title }) : t('opening.title_none') }}
    </h2>
    <FaultNote v-if="page.error.value && !page.data.value" :error="page.error.value" again @again="page.refetch()" />
    <template v-if="page.data.value">
      <p v-if="page.data.value.openings.length === 0" class="soft">{{ t('opening.text') }}</p>
      <OpeningEntry
        v-for="o in page.data.value.openings"
        :key="o.id"
        :course="course"
        :recording="recording"
        :zone="page.data.value.zone"
        :opening="o"
        @take-back="takeBack(o.id)"
      />
      <FaultNote v-if="fault" :error="fault" />
      <UndoLine
        v-if="taken"
        :key="taken"
        :text="t('opening.taken_back')"
        :undo="() => change.mutateAsync({ do: 'again', id: taken })"
      />
      <OpeningEntry
        v-if="draft"
        :key="draft.kind"
        :course="course"
        :recording="recording"
        :zone="page.data.value.zone"
        :fresh="draft"
        @done="draft = undefined"
      />
      <p v-else class="ways">
        <el-button @click="begin('people')">{{ t('opening.to_people') }}</el-button>
        <el-button @click="begin('everyone')">{{ t('opening.to_everyone') }}</el-button>
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
