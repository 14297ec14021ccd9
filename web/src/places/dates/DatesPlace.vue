<script setup lang="ts">
/** Everything planned in one's courses: today's first, then what comes, then what was. */
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import { useDates } from '../../api/timetable'
import DateLine from '../../parts/DateLine.vue'
import FaultNote from '../../parts/FaultNote.vue'
import FeedLine from '../common/FeedLine.vue'
import { nameTab } from '../../router'

const { t } = useI18n()
const list = useDates()
const today = computed(() => new Set((list.data.value?.today ?? []).map((d) => d.id)))
const rest = computed(() => (list.data.value?.dates ?? []).filter((d) => !today.value.has(d.id)))
const ahead = computed(() => rest.value.filter((d) => Date.parse(d.ends_at) > Date.parse(list.data.value!.now)))
const over = computed(() =>
  rest.value.filter((d) => Date.parse(d.ends_at) <= Date.parse(list.data.value!.now)).reverse(),
)
nameTab(t('place.dates'))
</script>

<template>
  <FaultNote
    v-if="list.error.value && !list.data.value"
    :error="list.error.value"
    :missing="t('board.no_term')"
    again
    @again="list.refetch()"
  />
  <section v-if="list.data.value" class="narrow">
    <h1>{{ t('place.dates') }}</h1>
    <p v-if="list.data.value.dates.length === 0" class="page">{{ t('dates.none') }}</p>
    <template v-else>
      <div v-if="list.data.value.today.length > 0" class="page todays">
        <DateLine
          v-for="d in list.data.value.today"
          :key="d.id"
          :date="d"
          :zone="list.data.value.zone"
          today
          with-course
        />
      </div>
      <p v-else class="page">{{ t('dates.none_today') }}</p>
      <h2>{{ t('feed.name') }}</h2>
      <p class="soft small">{{ t('feed.own') }}</p>
      <FeedLine :of="{ kind: 'own' }" />
      <template v-if="ahead.length > 0">
        <h2>{{ t('course.ahead') }}</h2>
        <ol class="page line-list">
          <li v-for="d in ahead" :key="d.id"><DateLine :date="d" :zone="list.data.value.zone" with-course /></li>
        </ol>
      </template>
      <template v-if="over.length > 0">
        <h2>{{ t('course.over') }}</h2>
        <ol class="page line-list">
          <li v-for="d in over" :key="d.id"><DateLine :date="d" :zone="list.data.value.zone" with-course /></li>
        </ol>
      </template>
    </template>
  </section>
</template>

<style scoped>
.narrow {
  max-width: 900px;
}

h2 {
  margin: 18px 0 6px;
}

.todays {
  padding: 0;
}
</style>
