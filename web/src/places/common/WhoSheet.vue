<script setup lang="ts">
/** Who of a course can watch a recording, and why the others cannot. */
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { useAudience } from '../../api/queries'
import FaultNote from '../../parts/FaultNote.vue'
import LanternSign from '../../parts/LanternSign.vue'
import PageSheet from '../../parts/PageSheet.vue'
import UndoLine from '../../parts/UndoLine.vue'
import { useShutChange, useShuts } from '../../api/rules'
import ShutList from './ShutList.vue'
import ShutOut from './ShutOut.vue'

const props = defineProps<{ recording: string; course: string }>()
const emit = defineEmits<{ close: [] }>()
const { t } = useI18n()
const audience = useAudience(
  () => props.course,
  () => props.recording,
)

const shuts = useShuts(() => props.course)

/** Those who cannot come first, by reason; who is shut out by this course stands by themselves. */
const groups = computed(() => {
  const by = new Map<string, { person_id: string; name: string; group: string }[]>()
  for (const s of audience.data.value?.seats ?? []) {
    if (s.reason === 'shut_out' && shuts.data.value?.people.some((x) => x.person_id === s.person_id)) continue
    by.set(s.reason, [...(by.get(s.reason) ?? []), s])
  }
  return [...by].sort(([a], [b]) => Number(a === 'rule') - Number(b === 'rule'))
})
/** Who is to be shut out, and who was. */
const whom = ref<{ id: string; name: string }>()
const was = ref<{ id: string; name: string }>()
const change = useShutChange(() => props.course)

function letIn() {
  const last = shuts.data.value?.people.findLast((x) => x.person_id === was.value?.id)
  return last ? change.mutateAsync({ do: 'in', id: last.id }) : Promise.resolve()
}

function done() {
  was.value = whom.value
  whom.value = undefined
}
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
      <UndoLine
        v-if="was"
        :key="was.id"
        :text="t('shut.done', { name: was.name })"
        :undo="letIn"
        @undone="was = undefined"
      />
      <ShutList :course="course" :zone="audience.data.value.zone" :recording="recording" />
      <section v-for="[reason, seats] in groups" :key="reason">
        <h3>{{ t(`who.${reason}`, { n: seats.length }, seats.length) }}</h3>
        <ul class="plain">
          <li v-for="s in seats" :key="s.person_id">
            <div class="seat">
              <span
                ><router-link
                  :to="{ name: 'sight', params: { course }, query: { person: s.person_id, recording } }"
                  :title="t('sight.seen_as', { name: s.name })"
                  >{{ s.name }}</router-link
                >
                <span v-if="s.group" class="soft">· {{ s.group }}</span></span
              >
              <el-button
                v-if="reason !== 'shut_out'"
                link
                size="small"
                :aria-label="t('shut.out_it', { name: s.name })"
                :aria-expanded="whom?.id === s.person_id"
                @click="whom = whom?.id === s.person_id ? undefined : { id: s.person_id, name: s.name }"
                >{{ t('shut.out') }}</el-button
              >
            </div>
            <ShutOut
              v-if="whom?.id === s.person_id"
              :course="audience.data.value.course"
              :recording="recording"
              :person="whom"
              :zone="audience.data.value.zone"
              @close="whom = undefined"
              @done="done"
            />
          </li>
        </ul>
      </section>
      <p class="ways">
        <router-link :to="{ name: 'rule', params: { course }, query: { for: recording } }">{{
          t('next.rule')
        }}</router-link>
        <router-link :to="{ name: 'rule', params: { course }, query: { for: recording }, hash: '#openings' }">{{
          t('who.beside')
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

.seat {
  display: flex;
  gap: 12px;
  align-items: center;
  justify-content: space-between;
}

.ways {
  display: flex;
  gap: 18px;
  margin-top: 20px;
}
</style>
