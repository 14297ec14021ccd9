<script setup lang="ts">
/** Recordings by courses: how many can watch each now, and how many then. */
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'
import LanternSign from '../../parts/LanternSign.vue'
import { dayAndClock } from '../../parts/time'

type Cell = Schemas['LightCell']
interface Line {
  id: string
  title: string
}
const chosen = defineModel<string[]>({ required: true })
const props = defineProps<{ recordings: Line[]; cells: Cell[]; alone: boolean; zone: string }>()
const { t } = useI18n()

const courses = computed(() => {
  const seen = new Map(props.cells.map((c) => [c.course_id, c.code]))
  return [...seen].map(([id, code]) => ({ id, code }))
})
/** Each is given to its own course alone: then those stand in one column. */
const columns = computed(() => (props.alone ? [{ id: '', code: t('lighting.course') }] : courses.value))
/** What is neither asked nor lit says nothing. */
const shown = (line: Line, course: string) =>
  props.cells.filter((c) => c.recording_id === line.id && (c.asked || c.lit) && (props.alone || c.course_id === course))
const changes = (c: Cell) => c.now !== c.then
/** What keeps those who are enrolled from watching although it is, or will be, lit. */
const lacks = (c: Cell) =>
  c.asked && c.then < c.of && c.why && c.why !== 'not_lit'
    ? t(`lighting.why.${c.why}`, { at: c.opens ? dayAndClock(c.opens, props.zone) : '' })
    : ''

function choose(id: string, on: boolean) {
  chosen.value = on ? [...chosen.value, id] : chosen.value.filter((x) => x !== id)
}
</script>

<template>
  <el-table :data="recordings" row-key="id">
    <el-table-column :label="t('lighting.recording')" min-width="190">
      <template #default="{ row }">
        <el-checkbox
          v-if="recordings.length > 1"
          :model-value="chosen.includes((row as Line).id)"
          @change="(on) => choose((row as Line).id, Boolean(on))"
          >{{ (row as Line).title }}</el-checkbox
        >
        <template v-else>{{ (row as Line).title }}</template>
      </template>
    </el-table-column>
    <el-table-column v-for="c in columns" :key="c.id" :label="c.code" :min-width="alone ? 230 : 120">
      <template #default="{ row }">
        <template v-for="x in shown(row as Line, c.id)" :key="x.course_id">
          <span class="cell">
            <span v-if="alone" class="code small">{{ x.code }}</span>
            <LanternSign :state="x.light" :can="x.then" :of="x.of" mute :size="20" />
            <span v-if="changes(x)" class="small">{{
              t('lighting.cell', { now: x.now, then: x.then, of: x.of })
            }}</span>
            <span v-else class="small soft">{{ t('lighting.stays', { now: x.now, of: x.of }) }}</span>
          </span>
          <router-link
            v-if="lacks(x) && x.why === 'no_rule'"
            class="small why"
            :to="{ name: 'rule', params: { course: x.course_id } }"
            >{{ lacks(x) }}</router-link
          >
          <span v-else-if="lacks(x)" class="small soft why">{{ lacks(x) }}</span>
        </template>
      </template>
    </el-table-column>
  </el-table>
</template>

<style scoped>
.cell {
  display: flex;
  gap: 8px;
  align-items: center;
}

.code {
  min-width: 66px;
  font-weight: 600;
}

.why {
  display: block;
}
</style>
