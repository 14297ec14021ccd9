<script setup lang="ts">
/** A closed door says why, and what to do; it shows nothing of what is behind it. */
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Problem } from '../../api/client'
import { tellClosed } from '../../api/queries'
import { say } from '../../messages/said'
import LanternSign from '../../parts/LanternSign.vue'

const props = defineProps<{ problem: Problem; recording?: string }>()
const { t, te } = useI18n()
const reason = computed(
  () => /^(?:door|doorway)\.(.*?)(?:_someone)?(?:_from)?$/.exec(props.problem.kind)?.[1] ?? 'unknown',
)
const text = computed(() => say({ code: props.problem.kind, with: props.problem.values, text: props.problem.message }))
/** Of these whoever teaches may not know; what opens by itself and whom they shut out they do. */
const overlooked = ['not_lit', 'no_rule', 'other_group', 'no_longer']
const told = ref<'' | 'now' | 'done'>('')
const fault = ref('')
async function tell() {
  if (!props.recording) return
  told.value = 'now'
  fault.value = ''
  try {
    await tellClosed(props.recording)
    told.value = 'done'
  } catch (e) {
    told.value = ''
    fault.value = e instanceof Error ? e.message : ''
  }
}
const help = computed(() => (te(`door_help.${reason.value}`) ? t(`door_help.${reason.value}`) : ''))
</script>

<template>
  <section class="page door">
    <LanternSign state="dark" mute :size="44" />
    <div>
      <h1>{{ t(te(`door.title_${reason}`) ? `door.title_${reason}` : 'door.title') }}</h1>
      <p>{{ text }}</p>
      <blockquote v-if="problem.values.word" class="word">
        {{ t('at_door.said', { word: problem.values.word }) }}
      </blockquote>
      <p v-if="help" class="soft">{{ help }}</p>
      <p v-if="told === 'done'" role="status">{{ t('tell.done') }}</p>
      <p v-if="fault" role="alert">{{ fault }}</p>
      <el-button
        v-if="recording && overlooked.includes(reason) && told !== 'done'"
        :loading="told === 'now'"
        @click="tell"
        >{{ t('tell.do') }}</el-button
      >
      <el-button tag="router-link" type="primary" :to="{ name: 'home' }">{{ t('nowhere.home') }}</el-button>
    </div>
  </section>
</template>

<style scoped>
.word {
  margin: 0 0 12px;
  padding-inline-start: 12px;
  border-inline-start: 3px solid var(--edge);
}

.door {
  display: flex;
  gap: 22px;
  max-width: 640px;
  margin: 40px auto;
  padding: 28px 32px;
}
</style>
