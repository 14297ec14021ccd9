<script setup lang="ts">
/** The lectures that a file may be of, each with what speaks for it. */
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'
import { clockText, dateText, dayAndClock } from '../../parts/time'

const props = defineProps<{ file: Schemas['FileLine']; zone: string; busy: boolean }>()
const emit = defineEmits<{ choose: [lecture: string] }>()
const { t } = useI18n()

function why(p: Schemas['Proposal']): string {
  const made = props.file.made_at
  const at = made ? dayAndClock(made, props.zone) : ''
  const said = [t(`files.by_${p.by}`, { at })]
  if (p.hall_named) said.push(t('files.says_hall', { hall: p.hall }))
  if (p.course_named) said.push(t('files.says_course', { course: p.course }))
  if (p.captured) said.push(t('files.captured'))
  return said.join(' · ')
}
</script>

<template>
  <ul class="plain proposals">
    <li v-for="(p, n) in file.proposals" :key="p.id">
      <el-button :type="n > 0 ? 'default' : 'primary'" :disabled="busy" @click="emit('choose', p.id)">
        {{ t('files.is', { course: p.course, day: dateText(p.starts_at, zone), clock: clockText(p.starts_at, zone) }) }}
      </el-button>
      <span>
        {{ [p.topic, p.hall].filter(Boolean).join(' · ') }}
        <span class="soft small why">{{ why(p) }}</span>
      </span>
    </li>
  </ul>
</template>

<style scoped>
.proposals {
  margin: 8px 0;
}

li {
  display: flex;
  align-items: center;
  gap: 14px;
  padding: 4px 0;
}

li .el-button {
  flex: none;
  min-width: 250px;
}

.why {
  display: block;
}
</style>
