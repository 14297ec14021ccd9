<script setup lang="ts">
import { useI18n } from 'vue-i18n'
import { useBoard } from '../../api/queries'
import FaultNote from '../../parts/FaultNote.vue'
import { nameTab } from '../../router'

const { t } = useI18n()
const board = useBoard()
nameTab(t('place.playlists'))
</script>

<template>
  <section>
    <h1>{{ t('place.playlists') }}</h1>
    <FaultNote
      v-if="board.error.value"
      :error="board.error.value"
      :missing="t('board.no_term')"
      again
      @again="board.refetch()"
    />
    <p v-if="board.data.value?.courses.length === 0" class="page">{{ t('board.empty') }}</p>
    <ul v-else-if="board.data.value" class="plain page">
      <li v-for="c in board.data.value.courses" :key="c.id">
        <router-link :to="{ name: 'playlist', params: { course: c.id } }"
          ><b>{{ c.code }}</b> {{ c.title }}</router-link
        >
        <span class="soft">{{
          t('playlist.course', {
            n: c.lectures.filter((l) => l.state === 'lit' || l.state === 'part_lit').length,
            students: c.students,
          })
        }}</span>
      </li>
    </ul>
  </section>
</template>

<style scoped>
ul {
  max-width: 760px;
}

li {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
  justify-content: space-between;
  padding: 12px 0;
}

li + li {
  border-top: 1px solid var(--rule);
}
</style>
