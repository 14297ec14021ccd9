<script setup lang="ts">
/** The address of a link, who came by it, and a new address for it. */
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { useOpeningChange, type Opening, type Opens } from '../../../api/openings'
import CopyLine from '../../../parts/CopyLine.vue'
import FaultNote from '../../../parts/FaultNote.vue'
import { useForm } from '../../../parts/form'
import { dayAndClock } from '../../../parts/time'

const props = defineProps<{ course: string; of: Opens; opening: Opening; zone: string }>()
const { t } = useI18n()
const change = useOpeningChange(() => props.of)
const form = useForm()
const renewed = ref(false)
/** Of a playlist all of it is looked at. */
const only = computed(() => ('recording' in props.of ? { recording: props.of.recording } : {}))

async function renew() {
  if (await form.send(() => change.mutateAsync({ do: 'renew', id: props.opening.id }))) renewed.value = true
}
</script>

<template>
  <div class="link">
    <CopyLine :label="t('opening.link', { name: opening.name })" :text="opening.link ?? ''" />
    <el-button :disabled="form.busy.value" :aria-label="t('opening.renew_it', { what: opening.name })" @click="renew">{{
      t('opening.renew')
    }}</el-button>
  </div>
  <p class="small">
    <router-link
      :to="{ name: 'sight', params: { course }, query: { opening: opening.id, link: opening.name, ...only } }"
      >{{ t('sight.seen_as', { name: t('sight.link', { name: opening.name }) }) }}</router-link
    >
  </p>
  <p v-if="renewed" class="small" role="status">{{ t('opening.renewed') }}</p>
  <FaultNote v-if="form.problem.value" :error="form.problem.value" />
  <p class="small">
    <b v-if="opening.phrase">{{ t('opening.asks') }} · </b>
    {{ t('opening.came', { n: opening.came.length }, opening.came.length) }}
    <template v-if="opening.most">
      ({{ t('opening.came_of', { n: opening.came.length, most: opening.most }) }})</template
    >
  </p>
  <ul v-if="opening.came.length" class="plain small">
    <li v-for="p in opening.came" :key="p.person_id">
      {{ p.at ? t('opening.came_at', { name: p.name, at: dayAndClock(p.at, zone) }) : p.name }}
    </li>
  </ul>
</template>

<style scoped>
.link {
  display: flex;
  gap: 10px;
  align-items: center;
  max-width: 720px;
  margin: 8px 0;
}

.link > :first-child {
  flex: 1;
}
</style>
