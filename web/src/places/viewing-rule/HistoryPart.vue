<script setup lang="ts">
/** What was changed of who may watch, the last first: by whom, when, from what to what. */
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'
import { useRuleHistory, type Rule, type RuleScope } from '../../api/rules'
import FaultNote from '../../parts/FaultNote.vue'
import { locale } from '../../parts/reader'
import { dayAndClock } from '../../parts/time'
import { useRightWords } from '../common/ruleWords'

type Change = Schemas['RightChange']
type Opened = Schemas['OpenedText']
const props = defineProps<{ scope: RuleScope; code: string }>()
const emit = defineEmits<{ again: [rule: Rule] }>()
const { t } = useI18n()
const open = ref(false)
const history = useRuleHistory(() => props.scope, open)
const pages = computed(() => history.data.value?.pages ?? [])
const zone = computed(() => pages.value[0]?.zone ?? 'UTC')
const words = useRightWords(zone)
const changes = computed(() => pages.value.flatMap((p) => p.changes))
const named = 3

/** What it was about: some recordings by their titles, or all of the course. */
function about(c: Change): string {
  const opened = c.opening?.list
  if (opened !== undefined)
    return opened ? t('history.list', { title: opened }) : t('history.main_list', { course: props.code })
  const titles = c.recordings.map((r) => (r.title ? t('history.title', { title: r.title }) : t('history.untitled')))
  if (titles.length === 0) return t('history.all', { course: props.code })
  const list = new Intl.ListFormat(locale)
  if (titles.length <= named) return list.format(titles)
  const n = titles.length - named
  return list.format([...titles.slice(0, named), t('history.more', { n }, n)])
}

function said(c: Change): string {
  const name = c.opening?.kind === 'link' ? t('history.link', { name: c.opening.name ?? '' }) : whom(c.opening)
  return t(`history.${c.what}`, {
    by: c.by || t('history.somebody'),
    about: about(c),
    person: c.person ?? '',
    until: c.until ? t('history.until', { at: dayAndClock(c.until, zone.value) }) : '',
    whom: name,
  })
}

function whom(o: Opened | undefined): string {
  if (!o) return ''
  return o.kind === 'everyone' ? t('opening.everyone') : t('history.people', { n: o.people }, o.people)
}

/** An opening as its sentence. */
const opened = (o: Opened) => words.said(o, o.kind === 'link' ? t('opening.holders', { name: o.name ?? '' }) : whom(o))
</script>

<template>
  <details class="page past" @toggle="open = ($event.target as HTMLDetailsElement).open">
    <summary>{{ t('history.name') }}</summary>
    <FaultNote
      v-if="history.error.value && pages.length === 0"
      :error="history.error.value"
      again
      @again="history.refetch()"
    />
    <p v-else-if="history.data.value && changes.length === 0" class="soft">{{ t('history.none') }}</p>
    <el-timeline v-else>
      <el-timeline-item v-for="(c, n) in changes" :key="n" :timestamp="dayAndClock(c.at, zone)" placement="top">
        {{ said(c) }}
        <template v-if="c.rule">
          <span class="block">{{ words.sentence(c.rule, code) }}</span>
          <el-button link class="small" @click="emit('again', c.rule!)">{{ t('history.again') }}</el-button>
        </template>
        <span v-if="c.was" class="block soft small">{{ t('history.before') }} {{ words.sentence(c.was, code) }}</span>
        <span v-if="c.opening && (c.what === 'opened' || c.what === 'changed')" class="block">{{
          opened(c.opening)
        }}</span>
        <span v-if="c.opening_was" class="block soft small">{{ t('history.before') }} {{ opened(c.opening_was) }}</span>
      </el-timeline-item>
    </el-timeline>
    <el-button v-if="history.hasNextPage.value" :disabled="history.isFetching.value" @click="history.fetchNextPage()">
      {{ t('history.earlier') }}
    </el-button>
  </details>
</template>

<style scoped>
.past {
  max-width: 980px;
  margin-top: 14px;
}

summary {
  min-height: 24px;
  color: var(--kelp);
  cursor: pointer;
}

.el-timeline {
  margin-top: 14px;
}

.block {
  display: block;
}
</style>
