<script setup lang="ts">
/** Who else follows a live lecture, in a course that lets names be seen. */
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { useWhoElse } from '../../api/timetable'

const props = defineProps<{ lecture: string }>()
const { t } = useI18n()
const open = ref(false)
const here = useWhoElse(() => props.lecture, open)
const names = computed(() => here.data.value?.names ?? [])
</script>

<template>
  <details v-if="here.data.value?.seen && names.length > 0" @toggle="open = ($event.target as HTMLDetailsElement).open">
    <summary>{{ t('live.here', { n: names.length }, names.length) }}</summary>
    <p class="soft small">{{ t('live.here_why') }}</p>
    <ul class="plain" tabindex="0" :aria-label="t('live.here', { n: names.length }, names.length)">
      <li v-for="(name, n) in names" :key="n">
        <bdi>{{ name }}</bdi>
      </li>
    </ul>
  </details>
</template>

<style scoped>
p {
  margin: 4px 0;
}

ul {
  max-height: 24vh;
  overflow-y: auto;
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(140px, 1fr));
  gap: 2px 12px;
}
</style>
