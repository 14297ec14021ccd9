<script setup lang="ts">
/** Who is at the door of a lecture: those who ask, and guests with links of their own. */
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { useDoorway, useDoorwayChange } from '../../api/timetable'
import { Problem } from '../../api/client'
import AtDoor from '../common/AtDoor.vue'
import CopyLine from '../../parts/CopyLine.vue'
import FaultNote from '../../parts/FaultNote.vue'
import FormDay from '../../parts/FormDay.vue'
import FormText from '../../parts/FormText.vue'
import UndoLine from '../../parts/UndoLine.vue'
import { collegeNow } from '../../parts/clock'
import { dayAndClock } from '../../parts/time'
import { dayAfter, dayOf, startOf } from '../../parts/days'

const props = defineProps<{ lecture: string; zone: string; ends: string }>()
const { t } = useI18n()
const door = useDoorway(() => props.lecture)
const change = useDoorwayChange(() => props.lecture)
const name = ref('')
const until = ref(dayOf(Math.max(Date.parse(props.ends), collegeNow()), props.zone))
const takenBack = ref('')
const fields = computed<Record<string, string>>(() => {
  const e = change.error.value
  return e instanceof Problem ? e.fields : {}
})

async function inviteGuest() {
  // A link holds to the end of its day in the college.
  const ends = until.value ? startOf(dayAfter(until.value), props.zone).toISOString() : ''
  await change.mutateAsync({ do: 'invite', guest: { name: name.value, ends_at: ends } })
  name.value = ''
}

async function takeBack(guest: string) {
  await change.mutateAsync({ do: 'take_back', guest })
  takenBack.value = guest
}
</script>

<template>
  <section>
    <FaultNote v-if="door.error.value" :error="door.error.value" again @again="door.refetch()" />
    <template v-if="door.data.value">
      <AtDoor :lecture="lecture" :zone="zone" />
      <h2>{{ t('guest.name') }}</h2>
      <p v-if="door.data.value.guests.length === 0" class="soft small">{{ t('guest.none') }}</p>
      <ul v-else class="plain">
        <li v-for="g in door.data.value.guests" :key="g.id" class="guest">
          <b>{{ g.name }}</b>
          <span class="soft small">
            {{ t(g.expired ? 'guest.ended' : 'guest.until', { at: dayAndClock(g.ends_at, zone) }) }}</span
          >
          <CopyLine v-if="!g.expired" :label="t('guest.address', { name: g.name })" :text="g.link" />
          <el-button link :aria-label="t('guest.take_back_it', { name: g.name })" @click="takeBack(g.id)">
            {{ t('guest.take_back') }}
          </el-button>
        </li>
      </ul>
      <UndoLine
        v-if="takenBack"
        :key="takenBack"
        :text="t('guest.taken_back')"
        :undo="() => change.mutateAsync({ do: 'bring_back', guest: takenBack })"
      />
      <form @submit.prevent="inviteGuest().catch(() => undefined)">
        <FormText v-model="name" :label="t('guest.who')" :fault="fields.name" size="wide" />
        <FormDay v-model="until" :label="t('guest.end')" :fault="fields.ends_at" />
        <FaultNote v-if="change.error.value && Object.keys(fields).length === 0" :error="change.error.value" />
        <el-button native-type="submit" :disabled="change.isPending.value">{{ t('guest.invite') }}</el-button>
      </form>
    </template>
  </section>
</template>

<style scoped>
h2 {
  margin: 14px 0 4px;
  font-size: 16px;
}

.guest {
  padding: 6px 0 10px;
  border-bottom: 1px solid var(--rule);
}
</style>
