<script setup lang="ts">
/** The register of a lecture, for those who teach it: how each stands, why, and the press that changes it. */
import { useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { markSeat, settleWord, unmarkSeat, useRegister, type RegisterLine } from '../../../api/register'
import { keys } from '../../../api/queries'
import FaultNote from '../../../parts/FaultNote.vue'
import UndoLine from '../../../parts/UndoLine.vue'
import { useForm } from '../../../parts/form'
import { clockText, hoursText } from '../../../parts/time'
import BringRegister from './BringRegister.vue'
import SeatForm from './SeatForm.vue'
import StandsSign from './StandsSign.vue'

const props = defineProps<{
  lecture: string
  zone: string
  /** It is on now. */
  on?: boolean
}>()
const { t } = useI18n()
const client = useQueryClient()
const register = useRegister(() => props.lecture)
const it = computed(() => register.data.value)
const lines = computed(() => it.value?.lines ?? [])
const begun = computed(() => !!it.value && Date.parse(it.value.until) > Date.parse(it.value.from))
const known = computed(() => lines.value.some((l) => l.state !== ''))
const count = (is: (l: RegisterLine) => boolean) => lines.value.filter(is).length
/** What is to be said of all, in short sentences. */
const sums = computed(() => {
  const n = {
    late: count((l) => l.late),
    early: count((l) => l.early),
    absent: count((l) => l.state === 'absent'),
    excused: count((l) => l.state === 'excused'),
  }
  const parts = [
    t(props.on ? 'register.sum_on' : 'register.sum', { there: count((l) => l.there), all: lines.value.length }),
  ]
  for (const [key, x] of Object.entries(n)) {
    // While it is on nobody has left early yet.
    if (x > 0 && !(props.on && key === 'early')) parts.push(t(`register.sum_${key}`, { n: x }))
  }
  return parts.join(' ')
})
const only = ref<'all' | 'missing' | 'words'>('all')
const missing = computed(() => count((l) => l.state === 'absent'))
const words = computed(() => count((l) => !!l.word && !l.word.settled))
const shown = computed(() =>
  lines.value.filter((l) =>
    only.value === 'all' ? true : only.value === 'missing' ? l.state === 'absent' : !!l.word && !l.word.settled,
  ),
)
const why = (l: RegisterLine) =>
  l.stays
    .map((s) =>
      s.by === 'said' || s.by === 'answered'
        ? `${t(`register.by.${s.by}`)} ${clockText(s.from, props.zone)}`
        : `${s.by === 'hall' ? t('register.by.hall') + ' ' : ''}${hoursText(s.from, s.until, props.zone)}`,
    )
    .join(', ')

const open = ref('')
const refresh = () => void client.invalidateQueries({ queryKey: keys.register(props.lecture) })

/** kept says what was kept of a line, and how it was before. */
function kept(was: RegisterLine, text: string) {
  const before = was.mark
    ? () =>
        markSeat(props.lecture, was.person, {
          state: was.state as 'present',
          late_min: was.late_min,
          early_min: was.early_min,
          reason: was.mark!.reason,
        })
    : () => unmarkSeat(props.lecture, was.person)
  open.value = ''
  form.said(text, () => before().then(refresh))
  refresh()
}

const form = useForm()
const { done } = form
async function settle(l: RegisterLine, settled: boolean) {
  await form.send(() => settleWord(props.lecture, l.person, settled))
  refresh()
}
</script>

<template>
  <section class="register">
    <h2>{{ t('register.name') }}</h2>
    <FaultNote v-if="register.error.value && !it" :error="register.error.value" again @again="register.refetch()" />
    <template v-if="it">
      <p v-if="lines.length === 0" class="soft">{{ t('register.none') }}</p>
      <p v-else-if="!begun" class="soft">{{ t('register.not_yet') }}</p>
      <template v-else>
        <p role="status">
          {{ known ? sums : t('register.nothing_known') }}
          <span v-if="!on" class="soft small">{{
            t('register.held', { from: clockText(it.from, zone), until: clockText(it.until, zone) })
          }}</span>
        </p>
        <div class="bar-of-acts">
          <el-radio-group v-model="only" size="small" :aria-label="t('register.which')">
            <el-radio-button value="all">{{ t('register.all') }}</el-radio-button>
            <el-radio-button value="missing">{{ t('register.missing', { n: missing }) }}</el-radio-button>
            <el-radio-button v-if="words > 0 || only === 'words'" value="words">{{
              t('register.words', { n: words })
            }}</el-radio-button>
          </el-radio-group>
          <slot :missing="missing" />
        </div>
        <UndoLine v-if="done" v-bind="done" :key="done.key" />
        <FaultNote v-if="form.problem.value" :error="form.problem.value" />
        <div class="box" tabindex="0" role="group" :aria-label="t('register.list')">
          <ul class="plain">
            <li v-for="l in shown" :key="l.person">
              <div class="row">
                <b>{{ l.name }}</b>
                <StandsSign :stands="l" />
                <span class="soft small mono why">{{ why(l) }}</span>
                <el-button
                  link
                  class="push"
                  :aria-expanded="open === l.person"
                  :aria-label="t('register.change_it', { name: l.name })"
                  @click="open = open === l.person ? '' : l.person"
                  >{{ t('register.change') }}</el-button
                >
              </div>
              <p v-if="l.mark" class="soft small">
                {{ t(l.mark.by_file ? 'register.by_file' : 'register.marked', { who: l.mark.by })
                }}<template v-if="l.mark.reason">: {{ l.mark.reason }}</template
                >. {{ t('register.reckoned', { state: t(`register.state.${l.reckoned.state || 'unknown'}`) }) }}
              </p>
              <p v-if="l.word" class="small word" :class="{ soft: l.word.settled }">
                {{ t('register.says') }} <bdi>{{ l.word.text }}</bdi>
                <el-button link @click="settle(l, !l.word.settled)">{{
                  t(l.word.settled ? 'register.look_again' : 'register.looked')
                }}</el-button>
              </p>
              <SeatForm v-if="open === l.person" :lecture="lecture" :line="l" @kept="(text) => kept(l, text)" />
            </li>
          </ul>
        </div>
        <template v-if="it.guests.length > 0">
          <h3>{{ t('register.guests') }}</h3>
          <ul class="line-list">
            <li v-for="(g, n) in it.guests" :key="n">
              {{ g.name }}
              <span class="mono small push">{{ g.stays.map((s) => hoursText(s.from, s.until, zone)).join(', ') }}</span>
            </li>
          </ul>
        </template>
        <p class="small">
          <a :href="`/api/lectures/${lecture}/register/file`" download>{{ t('register.sheet') }}</a>
        </p>
        <BringRegister :lecture="lecture" @brought="refresh" />
      </template>
    </template>
  </section>
</template>

<style scoped>
.register > p {
  margin: 4px 0 8px;
}

h3 {
  margin: 10px 0 2px;
  font-size: 15px;
}

.box {
  max-height: 46vh;
  margin: 8px 0;
  overflow-y: auto;
  border: 1px solid var(--rule);
  border-radius: 4px;
  background: var(--shell);
}

li + li {
  border-top: 1px solid var(--rule);
}

.register {
  container-type: inline-size;
}

.row {
  display: grid;
  grid-template-columns: minmax(0, 190px) minmax(0, 250px) minmax(0, 1fr) auto;
  gap: 0 12px;
  align-items: baseline;
  padding: 5px 12px;
}

@container (max-width: 620px) {
  .row {
    grid-template-columns: minmax(0, 1fr) auto;
  }

  .why {
    grid-column: 1;
    grid-row: 2;
  }
}

.box p {
  margin: 0;
  padding: 0 12px 5px;
}
</style>
