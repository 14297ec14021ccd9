<script setup lang="ts">
/** At whose address no mail arrives, for coordinators. */
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import { tryAgain, useAstray } from '../../api/news'
import FaultNote from '../../parts/FaultNote.vue'
import { useForm } from '../../parts/form'
import { dateText } from '../../parts/time'

defineProps<{ zone: string }>()
const { t, te } = useI18n()
const page = useAstray()
const form = useForm()
const list = computed(() => page.data.value?.people ?? [])
/** What the mail server says, in words where it is one of those that are met. */
const why = (status: string) =>
  t(te(`astray.${status.replaceAll('.', '_')}`) ? `astray.${status.replaceAll('.', '_')}` : 'astray.other', { status })

async function again(person: string) {
  await form.act(() => tryAgain(person))
  void page.refetch()
}
</script>

<template>
  <section v-if="list.length > 0" class="page astray">
    <h2>{{ t('astray.title', { n: list.length }, list.length) }}</h2>
    <p class="soft small">{{ t('astray.help') }}</p>
    <ul>
      <li v-for="x in list" :key="x.person_id">
        <span
          ><b>{{ x.name }}</b> <span class="mono">{{ x.address }}</span></span
        >
        <span class="soft small">{{ why(x.status) }} · {{ dateText(x.since, zone) }}</span>
        <el-button link :aria-label="t('astray.again_of', { name: x.name })" @click="again(x.person_id)">{{
          t('astray.again')
        }}</el-button>
      </li>
    </ul>
    <FaultNote v-if="form.problem.value" :error="form.problem.value" />
  </section>
</template>

<style scoped>
.astray {
  margin-bottom: 16px;
}

ul {
  margin: 6px 0 0;
  padding: 0;
  list-style: none;
}

li {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 16px;
  align-items: baseline;
  padding: 5px 0;
  border-bottom: 1px solid var(--rule);
}

li .el-button {
  margin-inline-start: auto;
}
</style>
