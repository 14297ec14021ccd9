<script setup lang="ts">
/** Which lecture is to be captured: today's first. */
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRunSheet } from '../../api/timetable'
import FaultNote from '../../parts/FaultNote.vue'
import LanternSign from '../../parts/LanternSign.vue'
import { clockText } from '../../parts/time'
import { nameTab } from '../../router'
import RecordAhead from './RecordAhead.vue'

const { t } = useI18n()
const sheet = useRunSheet(ref(''))
nameTab(t('place.capture'))

const today = computed(() => (sheet.data.value?.entries ?? []).filter((x) => x.cell.state !== 'off'))
</script>

<template>
  <section>
    <h1>{{ t('desk.choose') }}</h1>
    <FaultNote
      v-if="sheet.error.value"
      :error="sheet.error.value"
      :missing="t('board.no_term')"
      again
      @again="sheet.refetch()"
    />
    <template v-if="sheet.data.value">
      <p v-if="today.length === 0" class="page">
        {{ t('desk.none_today') }} <router-link :to="{ name: 'board' }">{{ t('desk.to_board') }}</router-link>
      </p>
      <ul v-else class="plain page">
        <li v-for="x in today" :key="x.lecture.id">
          <LanternSign :state="x.cell.state" :can="x.cell.can" :of="x.cell.of" />
          <span class="mono">{{ clockText(x.lecture.starts_at, sheet.data.value.zone) }}</span>
          <router-link :to="{ name: 'capture-desk', params: { lecture: x.lecture.id } }"
            ><b>{{ x.lecture.course }}</b> {{ x.lecture.course_title }}</router-link
          >
          <span class="soft">{{ [x.lecture.topic, x.lecture.hall].filter(Boolean).join(' · ') }}</span>
        </li>
      </ul>
      <RecordAhead />
    </template>
  </section>
</template>

<style scoped>
ul {
  max-width: 860px;
  padding: 0;
}

li {
  display: flex;
  align-items: center;
  gap: 16px;
  padding: 12px 24px;
}

li + li {
  border-top: 1px solid var(--rule);
}
</style>
