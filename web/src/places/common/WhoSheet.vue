<script setup lang="ts">
/** Who of a course can watch a recording, and why the others cannot. */
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import { useAudience } from '../../api/queries'
import FaultNote from '../../parts/FaultNote.vue'
import LanternSign from '../../parts/LanternSign.vue'
import PageSheet from '../../parts/PageSheet.vue'

const props = defineProps<{ recording: string; course: string }>()
const emit = defineEmits<{ close: [] }>()
const { t } = useI18n()
const audience = useAudience(
  () => props.course,
  () => props.recording,
)

/** Those who cannot come first, by reason. */
const groups = computed(() => {
  const by = new Map<string, { name: string; group: string }[]>()
  for (const s of audience.data.value?.seats ?? []) by.set(s.reason, [...(by.get(s.reason) ?? []), s])
  return [...by].sort(([a], [b]) => Number(a === 'rule') - Number(b === 'rule'))
})
</script>

<template>
  <PageSheet open :title="t('who.title')" @close="emit('close')">
    <FaultNote v-if="audience.error.value" :error="audience.error.value" again @again="audience.refetch()" />
    <template v-if="audience.data.value">
      <p class="count">
        <LanternSign
          :state="audience.data.value.light"
          :can="audience.data.value.can"
          :of="audience.data.value.of"
          mute
          :size="32"
        />
        {{ t('who.count', { can: audience.data.value.can, of: audience.data.value.of }) }}
      </p>
      <p v-if="audience.data.value.of === 0">{{ t('who.nobody') }}</p>
      <section v-for="[reason, seats] in groups" :key="reason">
        <h3>{{ t(`who.${reason}`, { n: seats.length }, seats.length) }}</h3>
        <ul class="plain">
          <li v-for="s in seats" :key="s.name">
            {{ s.name }} <span v-if="s.group" class="soft">· {{ s.group }}</span>
          </li>
        </ul>
      </section>
      <p class="ways">
        <router-link :to="{ name: 'rule', params: { course }, query: { for: recording } }">{{
          t('next.rule')
        }}</router-link>
      </p>
    </template>
  </PageSheet>
</template>

<style scoped>
.count {
  display: flex;
  gap: 12px;
  align-items: center;
}

h3 {
  margin: 18px 0 4px;
  font-size: 15px;
}

li {
  padding: 2px 0;
}

.ways {
  margin-top: 20px;
}
</style>
