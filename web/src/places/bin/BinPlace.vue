<script setup lang="ts">
/** What was taken away, for as long as it can be brought back. */
import { useQueryClient } from '@tanstack/vue-query'
import { useI18n } from 'vue-i18n'
import { rearranged, setDeleted, useBin } from '../../api/bench'
import type { Schemas } from '../../api/client'
import FaultNote from '../../parts/FaultNote.vue'
import { useForm } from '../../parts/form'
import UndoLine from '../../parts/UndoLine.vue'
import { dateText, megabytes, timecode } from '../../parts/time'
import { nameTab } from '../../router'

const { t } = useI18n()
const client = useQueryClient()
const bin = useBin()
const { problem, done, act, said } = useForm()

async function bringBack(line: Schemas['BinLine']) {
  if (!(await act(() => setDeleted(line.id, false)))) return
  said(t('bin.is_back', { title: line.title }), () => binAgain(line))
  rearranged(client)
}

async function binAgain(line: Schemas['BinLine']) {
  await setDeleted(line.id, true)
  rearranged(client)
}

const taken = (x: Schemas['BinLine']) => {
  const date = dateText(x.deleted_at, bin.data.value!.zone)
  return x.by ? t('bin.by', { date, name: x.by }) : date
}

nameTab(t('bin.name'))
</script>

<template>
  <section class="page">
    <h1>{{ t('bin.name') }}</h1>
    <FaultNote v-if="bin.error.value && !bin.data.value" :error="bin.error.value" again @again="bin.refetch()" />
    <template v-if="bin.data.value">
      <UndoLine v-if="done" v-bind="done" :key="done.key" />
      <FaultNote v-if="problem" :error="problem" />
      <p v-if="bin.data.value.lines.length === 0">{{ t('bin.empty', { n: bin.data.value.days }) }}</p>
      <template v-else>
        <p class="soft">{{ t('bin.text', { n: bin.data.value.days }) }}</p>
        <el-table :data="bin.data.value.lines" row-key="id">
          <el-table-column v-slot="{ row: x }" :label="t('bin.recording')" min-width="260">
            <router-link :to="{ name: 'trim-bench', params: { recording: x.id } }">{{ x.title }}</router-link>
            <span class="soft small under">
              {{ x.lecture.course }} {{ x.lecture.course_title }}
              <template v-if="!x.lecture.ahead"> · {{ dateText(x.lecture.starts_at, bin.data.value!.zone) }}</template>
              <template v-if="x.file_name"> · {{ x.file_name }}</template>
            </span>
          </el-table-column>
          <el-table-column v-slot="{ row: x }" :label="t('bin.length')" width="90" class-name="mono">{{
            timecode(x.length_ms)
          }}</el-table-column>
          <el-table-column v-slot="{ row: x }" :label="t('bin.stored')" width="100">{{
            t('twins.megabytes', { n: megabytes(x.bytes) })
          }}</el-table-column>
          <el-table-column v-slot="{ row: x }" :label="t('bin.taken')" min-width="160">{{
            taken(x as Schemas['BinLine'])
          }}</el-table-column>
          <el-table-column v-slot="{ row: x }" :label="t('bin.gone')" width="130">{{
            dateText(x.gone_at, bin.data.value!.zone)
          }}</el-table-column>
          <el-table-column width="150" align="right">
            <template #header
              ><span class="away">{{ t('bin.back') }}</span></template
            >
            <template #default="{ row: x }">
              <el-button @click="bringBack(x as Schemas['BinLine'])">{{ t('bin.back') }}</el-button>
            </template>
          </el-table-column>
        </el-table>
      </template>
    </template>
  </section>
</template>

<style scoped>
.under {
  display: block;
}
</style>
