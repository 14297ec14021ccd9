<script setup lang="ts">
/** One hall: what its recorder sees and hears, what is on, and start and stop by hand. */
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'
import { pictureOf, useRecorderChange } from '../../api/halls'
import FaultNote from '../../parts/FaultNote.vue'
import LevelMeter from '../../parts/LevelMeter.vue'
import RecorderSign from '../../parts/RecorderSign.vue'
import { clockText, megabytes, timecode } from '../../parts/time'
import RecorderSettings from './RecorderSettings.vue'

const props = defineProps<{ hall: Schemas['HallNow']; zone: string }>()
const { t } = useI18n()
const change = useRecorderChange()
const r = computed(() => props.hall.recorder)
const on = computed(() => props.hall.on)
const reached = computed(() => r.value && r.value.heard_at && !r.value.troubles.includes('not_heard'))
const facts = computed(() => {
  const x = r.value
  if (!x?.heard_at) return ''
  const out = [
    t('halls.heard', { at: clockText(x.heard_at, props.zone) }),
    t('halls.free', { n: Math.floor(x.free_bytes / 1e9) }),
  ]
  if (x.unsent_bytes > 5e6) out.push(t('halls.unsent', { n: megabytes(x.unsent_bytes) }))
  return out.join(' · ')
})
const tell = (what: { do: 'stop' } | { do: 'start'; lecture: string }) =>
  change.mutate({ recorder: r.value!.id, change: what })
</script>

<template>
  <div class="of-hall">
    <div class="seen" :class="{ none: !r }">
      <img
        v-if="r?.pictured_at"
        :src="pictureOf(r)"
        :alt="t('halls.picture_of', { hall: hall.name, at: clockText(r.pictured_at, zone) })"
      />
      <span v-else class="soft small">{{ r ? t('halls.no_picture') : '' }}</span>
    </div>
    <div class="words">
      <h2>{{ hall.name }}</h2>
      <p>
        <template v-if="on">
          {{ on.state === 'on' || on.running ? t('halls.on') : t('halls.next', { at: clockText(on.starts_at, zone) })
          }}<router-link :to="{ name: 'lecture', params: { lecture: on.id } }"
            ><b>{{ on.course }}</b> {{ on.topic || on.course_title }}</router-link
          >
          <span v-if="hall.by" class="tally small how"
            >{{ t('halls.by', { name: hall.by }) }}
            <span class="mono">{{ t('halls.safe', { at: timecode(hall.stored_ms) }) }}</span></span
          >
          <span v-else-if="on.capture_auto" class="soft small how"> {{ t('halls.itself') }}</span>
          <span v-else-if="on.state === 'on'" class="small how"> {{ t('halls.not_captured') }}</span>
        </template>
        <span v-else class="soft">{{ t('halls.nothing') }}</span>
      </p>
      <template v-if="r">
        <p>
          <b>{{ r.name }}</b> <RecorderSign :recorder="r" :zone="zone" />
          <span class="soft small facts">{{ facts }}</span>
        </p>
        <div v-if="reached" class="level">
          <LevelMeter
            v-if="r.level_db !== undefined"
            :name="t('halls.level', { hall: hall.name })"
            :rms="r.level_db"
            :peak="r.level_db"
          />
          <span v-else class="small">{{ t('halls.mute') }}</span>
        </div>
      </template>
      <p v-else class="soft">{{ t('halls.no_recorder') }}</p>
      <FaultNote v-if="change.error.value" :error="change.error.value" />
      <RecorderSettings :hall="hall" />
    </div>
    <div class="acts">
      <template v-if="r && reached">
        <p v-if="r.ordered" role="status" class="small">
          {{ t(r.ordered === 'start' ? 'halls.starting' : 'halls.stopping') }}
        </p>
        <el-button v-else-if="r.capturing" @click="tell({ do: 'stop' })">
          {{ t('halls.stop') }}
        </el-button>
        <el-button
          v-else-if="on"
          :type="on.state !== 'on' ? 'default' : 'primary'"
          @click="tell({ do: 'start', lecture: on.id })"
        >
          {{ t('halls.start', { course: on.course }) }}
        </el-button>
      </template>
    </div>
  </div>
</template>

<style scoped>
.of-hall {
  display: grid;
  grid-template-columns: 232px minmax(0, 1fr) auto;
  gap: 22px;
}

.seen {
  display: flex;
  align-items: center;
  justify-content: center;
  aspect-ratio: 16 / 9;
  align-self: start;
  overflow: hidden;
  border: 1px solid var(--rule);
  border-radius: 4px;
  background: var(--fog);
}

.none {
  border-color: transparent;
  background: none;
}

img {
  width: 100%;
  height: 100%;
  object-fit: contain;
}

h2,
.words p {
  margin: 0 0 6px;
}

.how,
.facts {
  margin-inline-start: 8px;
}

.level {
  max-width: 380px;
  margin: 4px 0 8px;
}

@media (max-width: 800px) {
  .of-hall {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
