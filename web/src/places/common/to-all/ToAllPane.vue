<script setup lang="ts">
/** Questions to all, for who teaches: put one, see how it goes, and those before it. */
import { useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { keys } from '../../../api/queries'
import { changeToAll, useToAll } from '../../../api/toAll'
import FaultNote from '../../../parts/FaultNote.vue'
import UndoLine from '../../../parts/UndoLine.vue'
import AskedCard from './AskedCard.vue'
import PutToAll from './PutToAll.vue'

const props = defineProps<{ lecture: string; course: string }>()
const { t } = useI18n()
const client = useQueryClient()
const list = useToAll(() => props.lecture)
const asked = computed(() => (list.data.value?.questions ?? []).filter((q) => !q.withdrawn))
const last = computed(() => asked.value.at(-1))
const before = computed(() => asked.value.slice(0, -1).reverse())
const putting = ref(false)
const withdrawn = ref('')
const refresh = () => client.invalidateQueries({ queryKey: keys.toAll(props.lecture) })

async function put() {
  putting.value = false
  withdrawn.value = ''
  await refresh()
}
async function bringBack(id: string) {
  await changeToAll(props.lecture, id, { withdrawn: false })
  await refresh()
}
</script>

<template>
  <section class="to-all">
    <div class="bar-of-acts">
      <h2>{{ t('asking.name') }}</h2>
      <router-link class="push small" :to="{ name: 'wall', params: { lecture } }" target="_blank">{{
        t('asking.wall')
      }}</router-link>
    </div>
    <FaultNote v-if="list.error.value && !list.data.value" :error="list.error.value" again @again="list.refetch()" />
    <PutToAll v-if="putting" :lecture="lecture" :course="course" @put="put" @close="putting = false" />
    <el-button
      v-else-if="list.data.value"
      class="begin"
      :type="last?.open ? 'default' : 'primary'"
      plain
      @click="putting = true"
      >{{ t(last?.open ? 'asking.next' : 'asking.begin') }}</el-button
    >
    <UndoLine v-if="withdrawn" :key="withdrawn" :text="t('asking.withdrawn')" :undo="() => bringBack(withdrawn)" />
    <AskedCard
      v-if="last"
      :key="last.id"
      :lecture="lecture"
      :question="last"
      @changed="refresh"
      @withdrawn="withdrawn = last.id"
    />
    <details v-if="before.length > 0">
      <summary>{{ t('asking.before', { n: before.length }, before.length) }}</summary>
      <AskedCard
        v-for="q in before"
        :key="q.id"
        :lecture="lecture"
        :question="q"
        @changed="refresh"
        @withdrawn="withdrawn = q.id"
      />
    </details>
    <p v-if="asked.length > 0" class="small">
      <a :href="`/api/lectures/${lecture}/to-all-file`" download>{{ t('asking.sheet') }}</a>
    </p>
  </section>
</template>

<style scoped>
.to-all {
  display: grid;
  gap: 10px;
}

.begin {
  justify-self: start;
}

summary {
  min-height: 24px;
  color: var(--kelp);
  cursor: pointer;
}

details section {
  margin-top: 8px;
}

p {
  margin: 0;
}
</style>
