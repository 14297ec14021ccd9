<script setup lang="ts">
/** The standing room of a course: for the unplanned, and visibly no lecture of any day. */
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRouter } from 'vue-router'
import { useRoom, useRoomFor } from '../../api/timetable'
import CopyLine from '../../parts/CopyLine.vue'
import DateLine from '../../parts/DateLine.vue'
import FaultNote from '../../parts/FaultNote.vue'
import FormText from '../../parts/FormText.vue'
import { useForm } from '../../parts/form'
import { nameTab } from '../../router'
import CourseHead from '../common/CourseHead.vue'

const props = defineProps<{ course: string }>()
const { t } = useI18n()
const router = useRouter()
const page = useRoom(() => props.course)
const topic = ref('')
const { busy, fields, whole, send } = useForm()
const address = computed(() => window.location.origin + router.resolve({ name: 'room', params: props }).href)
nameTab(t('room.name'))

async function capture() {
  const lecture = await send(() => useRoomFor(props.course, topic.value))
  if (lecture) void router.push({ name: 'capture-desk', params: { lecture: lecture.lecture_id } })
}
</script>

<template>
  <FaultNote v-if="page.error.value && !page.data.value" :error="page.error.value" again @again="page.refetch()" />
  <CourseHead v-if="page.data.value" :course="page.data.value.course" :staff="page.data.value.staff" />
  <section v-if="page.data.value" class="narrow">
    <h2 class="what">{{ t('room.title') }}</h2>
    <p>{{ t('room.what') }}</p>
    <template v-if="page.data.value.today.length > 0">
      <h2>{{ t('room.today') }}</h2>
      <div v-for="d in page.data.value.today" :key="d.id" class="dated">
        <DateLine :date="d" :zone="page.data.value.zone" today />
      </div>
    </template>
    <template v-else-if="page.data.value.next">
      <h2>{{ t('room.none_today') }}</h2>
      <div class="page"><DateLine :date="page.data.value.next" :zone="page.data.value.zone" /></div>
    </template>
    <div class="page room">
      <template v-if="page.data.value.running">
        <p class="tally">
          <b>{{ t('room.running') }}</b>
        </p>
        <DateLine :date="page.data.value.running" :zone="page.data.value.zone" />
      </template>
      <p v-else>{{ t('room.empty') }}</p>
      <form v-if="page.data.value.staff && !page.data.value.running" @submit.prevent="capture">
        <FormText v-model="topic" :label="t('room.topic')" :fault="fields.topic" size="wide" />
        <FaultNote v-if="whole" :error="whole" />
        <el-button native-type="submit" :disabled="busy">{{ t('room.capture') }}</el-button>
      </form>
    </div>
    <p class="soft small">{{ t('room.address') }}</p>
    <CopyLine :label="t('room.address_name')" :text="address" />
  </section>
</template>

<style scoped>
.narrow {
  max-width: 760px;
}

h2 {
  margin: 16px 0 6px;
}

.dated {
  background: var(--shell);
}

.room {
  margin: 22px 0;
  border-style: dashed;
}
</style>
