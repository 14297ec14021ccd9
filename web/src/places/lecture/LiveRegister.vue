<script setup lang="ts">
/** Who followed the lecture live, and from when to when. */
import { useI18n } from 'vue-i18n'
import { useRegister } from '../../api/timetable'
import FaultNote from '../../parts/FaultNote.vue'
import { hoursText } from '../../parts/time'

const props = defineProps<{ lecture: string; zone: string }>()
const { t } = useI18n()
const register = useRegister(() => props.lecture)
</script>

<template>
  <section>
    <h2>{{ t('register.name') }}</h2>
    <FaultNote v-if="register.error.value" :error="register.error.value" again @again="register.refetch()" />
    <template v-if="register.data.value">
      <p v-if="register.data.value.followers.length === 0" class="soft">{{ t('register.none') }}</p>
      <details v-else>
        <summary>
          {{ t('register.count', { n: register.data.value.followers.length }, register.data.value.followers.length) }}
        </summary>
        <ul class="line-list">
          <li v-for="(f, n) in register.data.value.followers" :key="n">
            {{ f.name }} <span v-if="f.guest" class="soft small">{{ t('register.guest') }}</span>
            <span class="mono small push">{{ f.stays.map((s) => hoursText(s.from, s.until, zone)).join(', ') }}</span>
          </li>
        </ul>
      </details>
    </template>
  </section>
</template>

<style scoped>
summary {
  min-height: 24px;
  color: var(--kelp);
  cursor: pointer;
}
</style>
