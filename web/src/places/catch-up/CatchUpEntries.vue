<script setup lang="ts">
/** The entries of a playlist as a student finds them: what is open, how far they came, and why the rest is not. */
import { useQueryClient } from '@tanstack/vue-query'
import { useI18n } from 'vue-i18n'
import { setKnown } from '../../api/catchup'
import type { Schemas } from '../../api/client'
import { handoutAt } from '../../api/handouts'
import { keys } from '../../api/queries'
import FaultNote from '../../parts/FaultNote.vue'
import { useForm } from '../../parts/form'
import HadLine from '../../parts/HadLine.vue'
import { bytesText, dateText, dayAndClock, durationText, timecode } from '../../parts/time'
import { underWeeks } from '../common/weeks'

type Line = Schemas['CatchUpLine']
defineProps<{ list: Schemas['CatchUpList']; course: string; zone: string }>()
const { t } = useI18n()
const client = useQueryClient()
const had = (e: Line) => {
  const missed = e.account?.missed ?? []
  if (missed.length === 0) return t('catch_up.had_all')
  const stretches = missed.map((s) => `${timecode(s.start)}–${timecode(s.end)}`).join(', ')
  return t('catch_up.had', { missed: stretches, of: timecode(e.length_ms) })
}
const { problem, act } = useForm()

async function know(e: Line, known: boolean) {
  if (await act(() => setKnown(e.recording_id!, known))) await client.invalidateQueries({ queryKey: keys.catchUp })
}
</script>

<template>
  <FaultNote v-if="problem" :error="problem" />
  <ol class="plain">
    <template v-for="({ head, entry: e }, n) in underWeeks(list)" :key="e.recording_id ?? `h${n}`">
      <li v-if="head" class="heading">{{ t('sheet.week', { n: head }) }}</li>
      <li v-if="e.heading" class="heading">
        {{ e.heading }} <span v-if="e.about" class="below">{{ e.about }}</span>
      </li>
      <li v-else-if="e.address" class="lecture">
        <span class="week" />
        <a :href="e.address" target="_blank" rel="noopener noreferrer">{{ e.title }}</a>
      </li>
      <li v-else-if="e.file" class="lecture">
        <span class="week" />
        <span>
          <a :href="handoutAt(course, e.file.id)" download>{{ e.title }}</a>
          <span class="soft small beside"> {{ bytesText(e.file.bytes) }}</span>
        </span>
      </li>
      <li v-else class="lecture" :class="{ closed: !e.open }">
        <span class="week soft">{{ e.week ? t('sheet.week', { n: e.week }) : '' }}</span>
        <img v-if="e.picture" class="small-picture" :src="e.picture" alt="" loading="lazy" />
        <span v-else class="small-picture" />
        <span class="title">
          <router-link v-if="e.open" :to="{ name: 'watch', params: { recording: e.recording_id } }">{{
            e.title
          }}</router-link>
          <span v-else>{{ e.title }}</span>
          <span v-if="e.parts" class="small beside"> {{ t('playlist.part', { part: e.part, of: e.parts }) }}</span>
          <span v-if="e.starts_at" class="soft small beside"> {{ dateText(e.starts_at, zone) }}</span>
          <span v-if="!e.open" class="soft small why">
            {{ e.opens ? t('door.not_yet_at', { at: dayAndClock(e.opens, zone) }) : t(`door.${e.reason}`) }}
          </span>
          <HadLine
            v-if="e.account"
            role="img"
            :aria-label="had(e)"
            :length="e.length_ms"
            :attended="e.account.attended"
            :watched="e.account.watched"
            :missed="e.account.known ? [] : e.account.missed"
          />
        </span>
        <span v-if="e.account" class="far small">
          <template v-if="e.account.known">
            {{ t('catch_up.known') }}
            <el-button link :aria-label="t('catch_up.unknown_it', { title: e.title })" @click="know(e, false)">{{
              t('catch_up.unknown')
            }}</el-button>
          </template>
          <template v-else-if="e.account.missed_ms > 0">
            {{ t('catch_up.line_left', { left: durationText(e.account.missed_ms) }) }}
            <el-button link :aria-label="t('catch_up.know_it', { title: e.title })" @click="know(e, true)">{{
              t('catch_up.know')
            }}</el-button>
          </template>
          <template v-else>{{ t('catch_up.all') }}</template>
        </span>
        <span v-if="e.open" class="mono soft">{{ timecode(e.length_ms) }}</span>
      </li>
    </template>
  </ol>
</template>

<style scoped>
.heading {
  padding: 16px 0 4px;
  font: 600 16px var(--serif);
}

.below {
  display: block;
  max-width: 640px;
  font: 15px/1.4 var(--sans);
}

.lecture {
  display: grid;
  grid-template-columns: 56px 72px minmax(0, 1fr) 132px 56px;
  gap: 0 14px;
  align-items: center;
  min-height: 40px;
  padding: 8px 0;
  border-bottom: 1px solid var(--rule);
}

.lecture:not(:has(.small-picture)) > :last-child {
  grid-column: 2 / -1;
}

.small-picture {
  width: 72px;
  height: 41px;
  object-fit: cover;
  border-radius: 2px;
}

img.small-picture {
  border: 1px solid var(--rule-strong);
}

.far {
  display: grid;
  justify-items: start;
}

.had {
  margin-top: 2px;
}

.beside {
  white-space: nowrap;
}

.why {
  display: block;
}

@media (max-width: 700px) {
  .lecture {
    grid-template-columns: 72px minmax(0, 1fr) 56px;
  }

  .lecture .week {
    grid-column: 1 / -1;
    font-size: 13px;
  }

  .lecture .title {
    grid-column: 2 / -1;
  }

  .lecture .far {
    grid-column: 2 / 3;
    display: flex;
    flex-wrap: wrap;
    gap: 0 10px;
    align-items: center;
  }
}
</style>
