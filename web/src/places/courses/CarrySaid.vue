<script setup lang="ts">
/** What carrying a course brings, and what stays behind. */
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'
import { locale } from '../../parts/reader'
import { dateText } from '../../parts/time'

const props = defineProps<{
  said: Schemas['CarrySaid']
  parts: { plan: boolean; lists: boolean; again: boolean; rule: boolean; staff: boolean }
}>()
const { t } = useI18n()
const list = (names: string[]) => new Intl.ListFormat(locale).format(names)
const day = (at: string) => dateText(at, props.said.zone)

const comes = computed(() => {
  const s = props.said
  const out: string[] = []
  if (s.lectures > 0)
    out.push(t('carry.lectures', { n: s.lectures, first: day(s.first!), last: day(s.last!) }, s.lectures))
  if (s.staff > 0) out.push(t('carry.staff', { n: s.staff }, s.staff))
  if (props.parts.lists) {
    out.push(t('carry.lists', { n: s.lists + 1 }, s.lists + 1))
    if (s.headings > 0) out.push(t('carry.headings', { n: s.headings }, s.headings))
    if (s.pages > 0) out.push(t('carry.pages', { n: s.pages }, s.pages))
    if (s.files > 0) out.push(t('carry.files', { n: s.files }, s.files))
    if (s.recordings > 0) out.push(t('carry.recordings', { n: s.recordings, lit: s.lit }, s.recordings))
  }
  if (s.rule) out.push(t('carry.rule'))
  return out
})
const stays = computed(() => {
  const s = props.said
  const out: string[] = []
  if (props.parts.plan && s.lectures === 0 && s.left === 0) out.push(t('carry.no_plan'))
  if (s.left > 0) out.push(t('carry.left', { n: s.left }, s.left))
  if (s.clashing > 0) out.push(t('carry.clashing', { n: s.clashing }, s.clashing))
  if (s.lists_left.length > 0) out.push(t('carry.lists_left', { titles: list(s.lists_left) }, s.lists_left.length))
  if (props.parts.rule && !s.rule) out.push(t('carry.no_rule'))
  if (s.groups.length > 0) out.push(t('carry.groups', { groups: list(s.groups) }))
  out.push(t('carry.never'))
  return out
})
</script>

<template>
  <div role="status" class="said">
    <p v-if="comes.length === 0">{{ t('carry.nothing') }}</p>
    <template v-else>
      <h3>{{ t('carry.comes') }}</h3>
      <ul>
        <li v-for="x in comes" :key="x">{{ x }}</li>
      </ul>
    </template>
    <h3>{{ t('carry.stays') }}</h3>
    <ul>
      <li v-for="x in stays" :key="x">{{ x }}</li>
    </ul>
  </div>
</template>

<style scoped>
h3 {
  margin: 12px 0 2px;
  font-size: 15px;
}

ul {
  margin: 0;
  padding-inline-start: 20px;
}
</style>
