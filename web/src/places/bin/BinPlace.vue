<script setup lang="ts">
/** What was taken away, for as long as it can be brought back. */
import { useQueryClient } from '@tanstack/vue-query'
import { ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { rearranged, setDeleted, useBin } from '../../api/bench'
import type { Schemas } from '../../api/client'
import FaultNote from '../../parts/FaultNote.vue'
import UndoLine from '../../parts/UndoLine.vue'
import { dateText, megabytes, timecode } from '../../parts/time'
import { nameTab } from '../../router'

const { t } = useI18n()
const client = useQueryClient()
const bin = useBin()
const fault = ref<unknown>()
const back = ref<Schemas['BinLine']>()
const turn = ref(0)

async function bringBack(line: Schemas['BinLine']) {
  fault.value = undefined
  try {
    await setDeleted(line.id, false)
    back.value = line
    turn.value++
    rearranged(client)
  } catch (e) {
    fault.value = e
  }
}

async function binAgain(line: Schemas['BinLine']) {
  await setDeleted(line.id, true)
  rearranged(client)
}

nameTab(t('bin.name'))
</script>

<template>
  <section class="page">
    <h1>{{ t('bin.name') }}</h1>
    <FaultNote v-if="bin.error.value && !bin.data.value" :error="bin.error.value" again @again="bin.refetch()" />
    <template v-if="bin.data.value">
      <UndoLine v-if="back" :key="turn" :text="t('bin.is_back', { title: back.title })" :undo="() => binAgain(back!)" />
      <FaultNote v-if="fault" :error="fault" />
      <p v-if="bin.data.value.lines.length === 0">{{ t('bin.empty', { n: bin.data.value.days }) }}</p>
      <template v-else>
        <p class="soft">{{ t('bin.text', { n: bin.data.value.days }) }}</p>
        <table class="plain-table">
          <thead>
            <tr>
              <th scope="col">{{ t('bin.recording') }}</th>
              <th scope="col">{{ t('bin.length') }}</th>
              <th scope="col">{{ t('bin.stored') }}</th>
              <th scope="col">{{ t('bin.taken') }}</th>
              <th scope="col">{{ t('bin.gone') }}</th>
              <td />
            </tr>
          </thead>
          <tbody>
            <tr v-for="x in bin.data.value.lines" :key="x.id">
              <th scope="row">
                <router-link :to="{ name: 'trim-bench', params: { recording: x.id } }">{{ x.title }}</router-link>
                <span class="soft small">
                  {{ x.lecture.course }} {{ x.lecture.course_title }}
                  <template v-if="!x.lecture.ahead">
                    · {{ dateText(x.lecture.starts_at, bin.data.value.zone) }}</template
                  >
                  <template v-if="x.file_name"> · {{ x.file_name }}</template>
                </span>
              </th>
              <td class="mono">{{ timecode(x.length_ms) }}</td>
              <td>{{ t('twins.megabytes', { n: megabytes(x.bytes) }) }}</td>
              <td>
                {{
                  x.by
                    ? t('bin.by', { date: dateText(x.deleted_at, bin.data.value.zone), name: x.by })
                    : dateText(x.deleted_at, bin.data.value.zone)
                }}
              </td>
              <td>{{ dateText(x.gone_at, bin.data.value.zone) }}</td>
              <td>
                <el-button @click="bringBack(x)">{{ t('bin.back') }}</el-button>
              </td>
            </tr>
          </tbody>
        </table>
      </template>
    </template>
  </section>
</template>

<style scoped>
th .small {
  display: block;
}
</style>
