<script setup lang="ts">
/** Who waits at the door of a lecture, who is in, and who was sent out, with the press that answers each. */
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import { useDoorway, useDoorwayChange } from '../../api/timetable'
import FaultNote from '../../parts/FaultNote.vue'
import { clockText } from '../../parts/time'
import SendAway from './SendAway.vue'

const props = defineProps<{ lecture: string; zone: string }>()
const { t } = useI18n()
const door = useDoorway(() => props.lecture)
/** So many names are shown at once. */
const few = 6
const change = useDoorwayChange(() => props.lecture)
const waiting = computed(() => (door.data.value?.asking ?? []).filter((a) => a.state === 'waits'))
const out = computed(() => (door.data.value?.asking ?? []).filter((a) => a.state === 'sent_out'))
/** Who was let in and has not come yet is in as well. */
const inside = computed(() => {
  const here = door.data.value?.inside ?? []
  const known = new Set(here.map((x) => x.person))
  const letInYet = (door.data.value?.asking ?? []).filter((a) => a.state === 'let_in' && !known.has(a.person))
  return [...here, ...letInYet.map((a) => ({ person: a.person, name: a.name, guest: false }))]
})
const letIn = (person: string) => change.mutate({ do: 'let_in', person })
const sendOut = (person: string, word: string) => change.mutate({ do: 'send_out', person, word })
</script>

<template>
  <section class="at-door" :aria-label="t('at_door.name')">
    <div v-if="waiting.length > 0" class="waiting" role="status">
      <div class="bar-of-acts">
        <b>{{ t('at_door.waits', { n: waiting.length }, waiting.length) }}</b>
        <span class="bar-of-acts push">
          <el-button v-if="waiting.length > 1" size="small" @click="change.mutate({ do: 'let_all_in' })">{{
            t('at_door.let_all')
          }}</el-button>
          <el-button
            size="small"
            :aria-label="t('at_door.from_now_help')"
            @click="change.mutate({ do: 'open', open: true })"
            >{{ t('at_door.from_now') }}</el-button
          >
        </span>
      </div>
      <ul class="line-list">
        <li v-for="a in waiting" :key="a.person">
          <span
            >{{ a.name }}
            <span class="soft small">{{ t('doorway.since', { at: clockText(a.asked_at, zone) }) }}</span></span
          >
          <span class="bar-of-acts push answers">
            <el-button
              size="small"
              type="primary"
              :aria-label="t('doorway.let_in_it', { name: a.name })"
              @click="letIn(a.person)"
              >{{ t('doorway.let_in') }}</el-button
            >
            <SendAway
              :name="a.name"
              :text="t('at_door.send_away')"
              :label="t('at_door.send_away_it', { name: a.name })"
              :busy="change.isPending.value"
              @send="(word) => sendOut(a.person, word)"
            />
          </span>
        </li>
      </ul>
    </div>
    <p v-if="door.data.value?.open" class="small open" role="status">
      {{ t('at_door.is_open') }}
      <el-button link type="primary" @click="change.mutate({ do: 'open', open: false })">{{
        t('at_door.ask_again')
      }}</el-button>
    </p>
    <details v-if="inside.length > 0 || out.length > 0" :open="inside.length + out.length <= few">
      <summary>{{ t('at_door.inside', { n: inside.length }, inside.length) }}</summary>
      <ul class="line-list">
        <li v-for="x in inside" :key="x.person">
          <span
            >{{ x.name }} <span v-if="x.guest" class="soft small">{{ t('at_door.guest') }}</span></span
          >
          <span class="bar-of-acts push answers">
            <SendAway
              :name="x.name"
              :text="t('doorway.send_out')"
              :label="t('doorway.send_out_it', { name: x.name })"
              :busy="change.isPending.value"
              @send="(word) => sendOut(x.person, word)"
            />
          </span>
        </li>
        <li v-for="x in out" :key="x.person">
          <span
            >{{ x.name }} <span class="soft small">{{ t('at_door.out') }}</span></span
          >
          <el-button
            class="push"
            size="small"
            :aria-label="t('at_door.let_back_it', { name: x.name })"
            @click="letIn(x.person)"
            >{{ t('at_door.let_back') }}</el-button
          >
        </li>
      </ul>
    </details>
    <FaultNote v-if="change.error.value" :error="change.error.value" />
  </section>
</template>

<style scoped>
.waiting {
  margin: 10px 0;
  padding: 8px 12px;
  border-inline-start: 4px solid var(--kelp);
  background: var(--kelp-soft);
}

.answers {
  gap: 8px;
}

.line-list li {
  flex-wrap: wrap;
}

.open {
  margin: 6px 0;
}

summary {
  min-height: 24px;
  color: var(--kelp);
  cursor: pointer;
}
</style>
