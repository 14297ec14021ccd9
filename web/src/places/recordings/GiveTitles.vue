<script setup lang="ts">
/** The titles of the recordings that are chosen, written one under the other and given at once. */
import { useQueryClient } from '@tanstack/vue-query'
import { computed, reactive, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Row } from '../../api/all'
import type { Schemas } from '../../api/client'
import { giveTitles } from '../../api/titles'
import FaultNote from '../../parts/FaultNote.vue'
import PageSheet from '../../parts/PageSheet.vue'
import UndoLine from '../../parts/UndoLine.vue'
import { useForm } from '../../parts/form'

const props = defineProps<{ recordings: Row[] }>()
const emit = defineEmits<{ close: [] }>()
const { t } = useI18n()
const client = useQueryClient()
const { busy, problem, send } = useForm()
const written = reactive(new Map<string, string>())
const done = ref<Schemas['Retitle'][]>()
const own = (r: Row) => (r.bare ? '' : r.title)
const text = (r: Row) => written.get(r.recording_id) ?? r.title
/** What has no title of its own is given the one that stands here, whoever wrote it. */
const changes = computed(() =>
  props.recordings
    .map((r) => ({ recording_id: r.recording_id, seen: own(r), title: text(r).trim().replace(/\s+/g, ' ') }))
    .filter((x) => x.title !== '' && x.title !== x.seen),
)

async function give() {
  const list = changes.value
  if (!(await send(() => giveTitles(list)))) return
  done.value = list
  written.clear()
  void client.invalidateQueries()
}

async function back() {
  await giveTitles(done.value!.map((x) => ({ recording_id: x.recording_id, seen: x.title, title: x.seen })))
  void client.invalidateQueries()
}
</script>

<template>
  <PageSheet open wide :title="t('all.titles')" @close="emit('close')">
    <form @submit.prevent="give">
      <ul class="plain">
        <li v-for="r in recordings" :key="r.recording_id">
          <el-input
            :model-value="text(r)"
            maxlength="200"
            :aria-label="t('all.title_of', { title: r.title })"
            @input="(now) => written.set(r.recording_id, now)"
          />
          <span v-if="r.bare" class="soft small">{{ t('titles.bare') }}</span>
        </li>
      </ul>
      <FaultNote v-if="problem" :error="problem" />
      <UndoLine
        v-if="done"
        :key="done.map((x) => x.title).join()"
        :text="t('all.titled', { n: done.length }, done.length)"
        :undo="back"
      />
      <div class="bar-of-acts">
        <el-button type="primary" native-type="submit" :disabled="busy || changes.length === 0">{{
          t('all.give', { n: changes.length }, changes.length)
        }}</el-button>
        <span v-if="changes.length === 0" class="soft">{{ t('all.give_none') }}</span>
      </div>
    </form>
  </PageSheet>
</template>

<style scoped>
li {
  padding: 5px 0;
}

.bar-of-acts {
  margin-top: 14px;
}
</style>
