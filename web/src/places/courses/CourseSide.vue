<script setup lang="ts">
/** What else belongs to a course: its standing room and its feed. */
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'
import FeedLine from '../common/FeedLine.vue'

defineProps<{ page: Schemas['CoursePage'] }>()
const { t } = useI18n()
</script>

<template>
  <aside class="side">
    <section>
      <h2>{{ t('room.name') }}</h2>
      <p class="soft small">{{ t('room.help') }}</p>
      <router-link :to="{ name: 'room', params: { course: page.id } }">{{ t('room.open') }}</router-link>
    </section>
    <section>
      <h2>{{ t('feed.name') }}</h2>
      <template v-if="page.staff">
        <p class="soft small">{{ t('feed.course') }}</p>
        <FeedLine :of="{ kind: 'course', id: page.id }" />
        <p class="small file">
          <a :href="`/api/courses/${page.id}/timetable`" download>{{ t('feed.file') }}</a>
        </p>
      </template>
      <template v-else>
        <p class="soft small">{{ t('feed.own') }}</p>
        <FeedLine :of="{ kind: 'own' }" />
      </template>
    </section>
  </aside>
</template>

<style scoped>
.side section {
  padding: 14px 0;
  border-bottom: 1px solid var(--rule);
}

.side h2 {
  margin-bottom: 4px;
  font-size: 16px;
}

.file a {
  display: inline-block;
  line-height: 24px;
}
</style>
