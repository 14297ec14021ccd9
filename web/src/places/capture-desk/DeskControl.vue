<script setup lang="ts">
/** Start, pause, stop and marker, with the time that is captured and how much of it is safe. */
import { useI18n } from 'vue-i18n'
import FaultNote from '../../parts/FaultNote.vue'
import SafeLine from '../../parts/SafeLine.vue'
import { timecode } from '../../parts/time'
import type { Capturing } from './recorder'

export type Phase = 'ready' | 'capturing' | 'sending' | 'stored'
defineProps<{
  phase: Phase
  now: Capturing | undefined
  canStart: boolean
  /** Seconds until the capture stops by itself. */
  left: number | undefined
  /** Why it asks whether the lecture is over. */
  why: string
  /** What became of it, once all is stored. */
  outcome: string
  /** What is to be said to everyone present, or what it means to be alone. */
  notice: string
}>()
const emit = defineEmits<{ start: []; stop: []; pause: []; mark: []; again: []; goOn: [] }>()
const { t } = useI18n()
</script>

<template>
  <div class="control">
    <template v-if="phase === 'ready'">
      <el-button type="primary" size="large" :disabled="!canStart" aria-keyshortcuts="Alt+C" @click="emit('start')">
        {{ t('desk.start') }}
      </el-button>
      <p class="soft small">{{ notice }}</p>
    </template>
    <template v-else-if="now">
      <p class="elapsed mono" :class="{ tally: phase === 'capturing' && !now.paused }">{{ timecode(now.elapsed) }}</p>
      <SafeLine
        :elapsed="now.elapsed"
        :safe="phase === 'stored' ? now.elapsed : now.progress.safe"
        :reached="now.progress.reached"
      />
      <div v-if="left !== undefined" class="ask" role="alertdialog" :aria-label="t('desk.forgotten')">
        <p>
          <b>{{ t('desk.forgotten') }}</b>
          {{ why }}
        </p>
        <p class="tally" role="timer">{{ t('desk.stops_in', { left: timecode(left * 1000) }) }}</p>
        <div class="both">
          <el-button type="danger" @click="emit('stop')">{{ t('desk.stop_now') }}</el-button>
          <el-button @click="emit('goOn')">{{ t('desk.go_on') }}</el-button>
        </div>
      </div>
      <p v-if="now.silent" class="tally" role="alert">{{ t('desk.silent') }}</p>
      <p v-if="now.parts > 1" role="status">{{ t('desk.slept') }}</p>
      <p v-if="now.keepFault" class="tally" role="alert">{{ t('desk.not_kept') }}</p>
      <FaultNote v-if="now.progress.fault" :error="now.progress.fault" />
      <template v-if="phase === 'capturing'">
        <div class="both">
          <el-button aria-keyshortcuts="Alt+P" @click="emit('pause')">
            {{ t(now.paused ? 'desk.resume' : 'desk.pause') }}
          </el-button>
          <el-button aria-keyshortcuts="Alt+M" @click="emit('mark')">
            {{ t('desk.mark') }}
          </el-button>
        </div>
        <el-button type="danger" size="large" aria-keyshortcuts="Alt+X" @click="emit('stop')">
          {{ t('desk.stop') }}
        </el-button>
        <p class="soft small">{{ t('desk.keys') }}</p>
      </template>
      <p v-else-if="phase === 'sending'" role="status">{{ t('desk.sending') }}</p>
      <template v-else>
        <p role="status">{{ outcome }}</p>
        <p v-if="now.progress.recording">
          <el-button
            tag="router-link"
            type="primary"
            :to="{ name: 'trim-bench', params: { recording: now.progress.recording } }"
            >{{ t('desk.to_bench') }}</el-button
          >
        </p>
        <el-button link @click="emit('again')">{{ t('desk.again') }}</el-button>
      </template>
    </template>
  </div>
</template>

<style scoped>
.control {
  margin-bottom: 14px;
}

.control .small {
  margin: 8px 0 0;
}

.el-button--large {
  width: 100%;
}

.el-button--danger {
  margin-top: 10px;
}

.elapsed {
  margin: 0 0 8px;
  font-size: 40px;
  line-height: 1;
}

.both {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  margin-top: 10px;
}

.both .el-button {
  flex: 1;
  margin-top: 0;
}

.ask {
  margin: 12px 0;
  padding: 12px 14px;
  border: 2px solid var(--tally);
  border-radius: 4px;
}

.ask p {
  margin: 0 0 6px;
}
</style>
