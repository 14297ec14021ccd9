<script setup lang="ts">
/** Of what one was told and has not seen it. */
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { useNotices, useSeen } from '../../api/news'
import FaultNote from '../../parts/FaultNote.vue'
import UndoLine from '../../parts/UndoLine.vue'
import { useForm } from '../../parts/form'
import { dateText } from '../../parts/time'

defineProps<{ zone: string }>()
const { t } = useI18n()
const page = useNotices()
const see = useSeen()
const list = computed(() => page.data.value?.notices ?? [])
const { problem, done, act, said } = useForm()
/** So many stand there until more are asked for. */
const few = 5
const all = ref(false)

async function seen() {
  const what = { recordings: list.value.map((x) => x.recording_id), questions: [] }
  if (await act(() => see(what, true))) said(t('news.gone'), () => see(what, false))
}
</script>

<template>
  <section v-if="list.length > 0" class="page news">
    <h2>{{ t('news.title', { n: list.length }, list.length) }}</h2>
    <ul>
      <li v-for="x in all ? list : list.slice(0, few)" :key="x.recording_id">
        <router-link :to="{ name: 'watch', params: { recording: x.recording_id } }">{{ x.title }}</router-link>
        <span class="soft small">{{ x.course }} · {{ t('news.told', { day: dateText(x.at, zone) }) }}</span>
      </li>
    </ul>
    <p class="acts">
      <el-button v-if="list.length > few && !all" link @click="all = true">{{
        t('news.all', { n: list.length })
      }}</el-button>
      <el-button link @click="seen">{{ t('news.seen') }}</el-button>
    </p>
  </section>
  <FaultNote v-if="problem" :error="problem" />
  <UndoLine v-if="done" v-bind="done" :key="done.key" />
</template>

<style scoped>
.news {
  margin-bottom: 16px;
}

ul {
  margin: 6px 0;
  padding: 0;
  list-style: none;
}

li {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
  align-items: baseline;
  justify-content: space-between;
  padding: 5px 0;
  border-bottom: 1px solid var(--rule);
}

.acts {
  display: flex;
  gap: 18px;
  margin: 8px 0 0;
}
</style>
