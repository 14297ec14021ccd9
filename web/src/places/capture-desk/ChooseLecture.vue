<script setup lang="ts">
/** Which lecture is to be captured: today's first. */
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import { useBoard } from '../../api/queries'
import FaultNote from '../../parts/FaultNote.vue'
import LanternSign from '../../parts/LanternSign.vue'
import { clockText } from '../../parts/time'
import { nameTab } from '../../router'

const { t } = useI18n()
const board = useBoard()
nameTab(t('place.capture'))

const today = computed(() =>
  (board.data.value?.courses ?? [])
    .flatMap((c) =>
      c.lectures.filter((l) => l.today && l.state !== 'off').map((l) => ({ ...l, code: c.code, course: c.title })),
    )
    .sort((a, b) => a.starts_at.localeCompare(b.starts_at)),
)
</script>

<template>
  <section>
    <h1>{{ t('desk.choose') }}</h1>
    <FaultNote
      v-if="board.error.value"
      :error="board.error.value"
      :missing="t('board.no_term')"
      again
      @again="board.refetch()"
    />
    <template v-if="board.data.value">
      <p v-if="today.length === 0" class="page">
        {{ t('desk.none_today') }} <router-link :to="{ name: 'board' }">{{ t('desk.to_board') }}</router-link>
      </p>
      <ul v-else class="plain page">
        <li v-for="l in today" :key="l.id">
          <LanternSign :state="l.state" :can="l.can" :of="l.of" />
          <span class="mono">{{ clockText(l.starts_at, board.data.value.zone) }}</span>
          <router-link :to="{ name: 'capture-desk', params: { lecture: l.id } }"
            ><b>{{ l.code }}</b> {{ l.course }}</router-link
          >
          <span class="soft">{{ l.topic }} · {{ l.hall }}</span>
        </li>
      </ul>
    </template>
  </section>
</template>

<style scoped>
ul {
  max-width: 860px;
}

li {
  display: flex;
  align-items: center;
  gap: 16px;
  padding: 12px 0;
}

li + li {
  border-top: 1px solid var(--rule);
}
</style>
