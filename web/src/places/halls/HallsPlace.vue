<script setup lang="ts">
/** The halls: what is on in each, and how its recorder is. */
import { useI18n } from 'vue-i18n'
import { useHalls } from '../../api/halls'
import FaultNote from '../../parts/FaultNote.vue'
import { nameTab } from '../../router'
import HallEntry from './HallEntry.vue'

const { t } = useI18n()
const list = useHalls()
nameTab(t('place.halls'))
</script>

<template>
  <FaultNote
    v-if="list.error.value && !list.data.value"
    :error="list.error.value"
    :missing="t('board.no_term')"
    again
    @again="list.refetch()"
  />
  <section v-if="list.data.value">
    <h1>{{ t('place.halls') }}</h1>
    <p v-if="list.data.value.halls.length === 0" class="page">
      {{ t('halls.none') }} <router-link :to="{ name: 'terms' }">{{ t('halls.add_halls') }}</router-link>
    </p>
    <ul v-else class="plain">
      <li v-for="h in list.data.value.halls" :key="h.id" class="page">
        <HallEntry :hall="h" :zone="list.data.value.zone" />
      </li>
    </ul>
  </section>
</template>

<style scoped>
li {
  margin-bottom: 14px;
}
</style>
