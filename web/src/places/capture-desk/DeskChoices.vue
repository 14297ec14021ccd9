<script setup lang="ts">
/** What is captured: pictures, microphone, the computer's own sound, each with its level. */
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import ChoiceList from '../../parts/ChoiceList.vue'
import LevelMeter from '../../parts/LevelMeter.vue'
import SoundCheck from './SoundCheck.vue'
import type { Eye, Picture, Sources } from './sources'

const props = defineProps<{ sources: Sources; capturing: boolean }>()
const { t } = useI18n()
const kinds: Picture[] = ['screen', 'camera', 'both', 'none']
/** A capture of one picture can take it from elsewhere. */
const exchangeable = computed(() => props.sources.canFrame && props.sources.inCapture.value.length === 1)
function mute() {
  const { muted } = props.sources
  muted.value = !muted.value
}
const lost = computed<Eye[]>(() =>
  exchangeable.value && props.sources.kind.value !== 'none'
    ? []
    : props.sources.inCapture.value.filter((e) => !props.sources.seen[e].value),
)
const reopen = (eye: Eye) => (eye === 'screen' ? props.sources.openScreen() : props.sources.openCamera())
const inputs = computed(() =>
  (['microphone', 'computer'] as const).filter((n) =>
    n === 'microphone' ? props.sources.sound.value : props.sources.computer.value,
  ),
)
function toggleFraming() {
  const { framing } = props.sources
  framing.value = !framing.value
}
function wholeScreen() {
  const { frame } = props.sources
  frame.value = undefined
}
const named = (devices: MediaDeviceInfo[], kind: 'camera' | 'microphone') =>
  devices.map((d, n) => ({ value: d.deviceId, text: d.label || t(`desk.${kind}_n`, { n: n + 1 }) }))
const strengthen = (n: 'microphone' | 'computer', by: number | number[]) => {
  const { strengths } = props.sources
  strengths[n] = Number(by)
}
</script>

<template>
  <div class="choices">
    <div v-if="!capturing || exchangeable" role="group" :aria-label="t('desk.picture')" class="line">
      <span class="name">{{ t('desk.picture') }}</span>
      <el-button
        v-for="k in capturing ? (['screen', 'camera'] as Picture[]) : kinds"
        :key="k"
        :aria-pressed="sources.kind.value === k"
        @click="sources.pick(k)"
      >
        {{ t(`desk.${k}`) }}
      </el-button>
      <el-button
        v-if="sources.seen.screen.value && sources.canFrame && !capturing"
        link
        :aria-pressed="sources.framing.value"
        @click="toggleFraming"
      >
        {{ t(sources.framing.value ? 'desk.frame_done' : 'desk.frame') }}
      </el-button>
      <el-button v-if="sources.frame.value && sources.seen.screen.value && !capturing" link @click="wholeScreen">
        {{ t('desk.frame_off') }}
      </el-button>
    </div>
    <p v-if="sources.framing.value" class="soft small">{{ t('desk.frame_help') }}</p>
    <div v-if="capturing && sources.inCapture.value.length === 2 && sources.canFrame && lost.length === 0" class="line">
      <el-button @click="sources.openScreen()">{{ t('desk.other_screen') }}</el-button>
    </div>
    <div v-if="capturing && lost.length > 0" class="line">
      <el-button v-for="e in lost" :key="e" type="primary" @click="reopen(e)">
        {{ t(`desk.reopen_${e}`) }}
      </el-button>
    </div>
    <div class="line">
      <ChoiceList
        v-if="sources.cameras.value.length > 1 && sources.seen.camera.value && (!capturing || sources.canFrame)"
        :model-value="sources.camera.value"
        :label="t('desk.camera')"
        :options="named(sources.cameras.value, 'camera')"
        @update:model-value="(d) => void sources.openCamera(d)"
      />
      <ChoiceList
        v-if="sources.sound.value && sources.microphones.value.length > 0"
        :model-value="sources.microphone.value"
        :label="t('desk.microphone')"
        :options="named(sources.microphones.value, 'microphone')"
        @update:model-value="(d) => void sources.openMicrophone(d)"
      />
      <el-button
        v-if="sources.sound.value"
        :type="sources.muted.value ? 'danger' : undefined"
        :aria-pressed="sources.muted.value"
        @click="mute"
        >{{ t(sources.muted.value ? 'desk.unmute' : 'desk.mute') }}</el-button
      >
      <el-button v-else @click="sources.openMicrophone()">
        {{ t('desk.open_microphone') }}
      </el-button>
      <SoundCheck v-if="!capturing && inputs.length > 0" :mix="sources.mix" />
    </div>
    <div v-for="n in inputs" :key="n" class="level">
      <span class="name">{{ t(`desk.sound_${n}`) }}</span>
      <LevelMeter :name="t(`desk.sound_${n}`)" :rms="sources.levels[n].rms" :peak="sources.levels[n].peak" />
      <el-slider
        :model-value="sources.strengths[n]"
        :min="0"
        :max="2"
        :step="0.05"
        :show-tooltip="false"
        :aria-label="t('desk.strength', { name: t(`desk.sound_${n}`) })"
        :format-value-text="(x: number) => t('desk.times', { n: x })"
        @input="(by: number | number[]) => strengthen(n, by)"
      />
    </div>
    <p v-if="sources.seen.screen.value && !sources.computer.value && !capturing" class="soft small">
      {{ t('desk.no_computer_sound') }}
    </p>
  </div>
</template>

<style scoped>
.choices {
  display: grid;
  gap: 10px;
  margin-top: 14px;
}

.choices p {
  margin: 0;
}

.line {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px 12px;
}

.el-button[aria-pressed='true'] {
  border-color: var(--kelp);
  box-shadow: inset 0 -3px 0 var(--kelp);
}

.level {
  display: grid;
  grid-template-columns: 92px minmax(0, 1fr) 110px;
  align-items: center;
  gap: 12px;
}

.level .el-slider {
  height: 24px;
  accent-color: var(--kelp);
}
</style>
