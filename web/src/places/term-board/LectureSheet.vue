<script setup lang="ts">
/** A lecture over the board: what state it is in, the one next step, and its recordings. */
import { useQueryClient } from '@tanstack/vue-query'
import { computed, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { changeBench } from '../../api/bench'
import { changePlaylist } from '../../api/playlists'
import { keys, useLecture } from '../../api/queries'
import EndCapture from '../common/EndCapture.vue'
import FaultNote from '../../parts/FaultNote.vue'
import { useForm } from '../../parts/form'
import FileDrop from '../common/FileDrop.vue'
import LanternSign from '../../parts/LanternSign.vue'
import RuleText from '../common/RuleText.vue'
import PageSheet from '../../parts/PageSheet.vue'
import { clockText, dateText, timecode } from '../../parts/time'
import { asks, stepPlace } from '../common/steps'

const props = defineProps<{ lecture: string }>()
const emit = defineEmits<{ close: [] }>()
const { t } = useI18n()
const sheet = useLecture(() => props.lecture)
const it = computed(() => (sheet.data.value?.lecture.id === props.lecture ? sheet.data.value : undefined))
const title = computed(() => (it.value ? `${it.value.course.code} ${it.value.course.title}` : t('sheet.title')))
const step = computed(() => {
  const l = it.value?.lecture
  return l && asks(l) ? stepPlace(l.next, l, it.value!.course.id) : undefined
})

const running = computed(() => {
  const phase = it.value?.lecture.phase
  return phase === 'broken' || phase === 'paused' ? `live.held_${phase}` : 'sheet.running'
})

/** Steps that need no place of their own are taken here. */
const direct = computed(() => ['playlist', 'light', 'publish'].includes(it.value?.lecture.next ?? ''))
const client = useQueryClient()
const { busy, problem, act } = useForm()
watch(
  () => props.lecture,
  () => (problem.value = undefined),
)

async function take() {
  const l = it.value?.lecture
  if (!l?.recording_id) return
  await act(async () => {
    if (l.next === 'playlist')
      await changePlaylist({ course: it.value!.course.id }, { do: 'add', recordings: [l.recording_id!] })
    else await changeBench(l.recording_id!, { do: 'light' })
    await client.invalidateQueries({ queryKey: keys.lecture(l.id) })
    void client.invalidateQueries({ queryKey: keys.board })
  })
}
</script>

<template>
  <PageSheet :open="lecture !== ''" :title="title" @close="emit('close')">
    <FaultNote v-if="sheet.error.value" :error="sheet.error.value" again @again="sheet.refetch()" />
    <template v-if="it">
      <p class="soft">
        <template v-if="it.week">{{ t('sheet.week', { n: it.week }) }} · </template>
        <template v-if="it.lecture.ahead">{{ t('date.ahead') }}</template>
        <template v-else>
          {{ dateText(it.lecture.starts_at, it.zone) }}, {{ clockText(it.lecture.starts_at, it.zone) }}
          {{ t('sheet.to') }} {{ clockText(it.lecture.ends_at, it.zone) }}
          <template v-if="it.lecture.hall"> · {{ it.lecture.hall }}</template>
        </template>
      </p>
      <p class="topic">
        <router-link :to="{ name: 'lecture', params: { lecture } }">{{
          it.lecture.topic || t('sheet.page')
        }}</router-link>
      </p>
      <p class="state">
        <LanternSign :state="it.lecture.state" :can="it.lecture.can" :of="it.lecture.of" mute :size="32" />
        <span>{{ t(`light.${it.lecture.state}`, { can: it.lecture.can, of: it.lecture.of }) }}</span>
      </p>
      <RuleText v-if="it.lecture.recording_id" :course="it.course.id" :recording="it.lecture.recording_id" />
      <p v-if="direct">
        <el-button type="primary" :disabled="busy" @click="take">
          {{ t(`step_do.${it.lecture.next}`, { course: it.course.code }) }}
        </el-button>
      </p>
      <p v-else-if="step">
        <el-button tag="router-link" type="primary" :to="step">{{
          t(`step_do.${it.lecture.next}`, { course: it.course.code })
        }}</el-button>
      </p>
      <p v-else-if="it.lecture.state === 'planned'">
        <el-button tag="router-link" :to="{ name: 'capture-desk', params: { lecture } }">{{
          t('sheet.ahead')
        }}</el-button>
      </p>
      <FaultNote v-if="problem" :error="problem" />
      <template v-if="it.recordings.length > 0">
        <h2>{{ t('sheet.recordings') }}</h2>
        <ul class="plain recordings">
          <li v-for="r in it.recordings" :key="r.id">
            <router-link :to="{ name: 'trim-bench', params: { recording: r.id } }">{{ r.title }}</router-link>
            <div class="soft small">
              <template v-if="r.state === 'failed'">{{ t(`fault.${r.fault}`) }}</template>
              <template v-else-if="!r.stopped && r.source !== 'file'">
                {{ t(running, { length: timecode(r.length_ms) }) }}
                <EndCapture :recording="r.id" :lecture="lecture" />
              </template>
              <template v-else-if="!r.stopped">{{ t('sheet.running') }}</template>
              <template v-else-if="r.state === 'ready'">{{ timecode(r.length_ms) }}</template>
              <template v-else>{{ t('sheet.being_read', { time: timecode(r.length_ms) }) }}</template>
              <template v-if="r.small_state === 'making' || r.small_state === 'failed'">
                · {{ t(`sheet.small_${r.small_state}`, { n: r.small_share }) }}</template
              >
              <template v-if="r.file_name"> · {{ r.file_name }}</template>
            </div>
          </li>
        </ul>
      </template>
      <h2 class="file">{{ t('sheet.file') }}</h2>
      <FileDrop :lecture="lecture" />
    </template>
  </PageSheet>
</template>

<style scoped>
.topic {
  font: 600 22px/1.25 var(--serif);
}

.state {
  display: flex;
  align-items: center;
  gap: 12px;
  margin: 16px 0;
}

.recordings li {
  padding: 8px 0;
  border-bottom: 1px solid var(--rule);
}

h2 {
  margin: 22px 0 4px;
}
</style>
