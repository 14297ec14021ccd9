<script setup lang="ts">
/** What of a recording may be taken away: files that are made once they are asked for, and its text. */
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'
import { locale } from '../../parts/reader'
import TakeAway from './TakeAway.vue'

const props = defineProps<{
  page: Schemas['Watch']
  language: string
  /** Its words stand beside it, so that they can be printed. */
  printed: boolean
}>()
const { t } = useI18n()
const alone = computed(() =>
  new Intl.ListFormat(locale, { type: 'unit' }).format(
    props.page.takes.filter((x) => x.staff_alone).map((x) => t(`watch.kind.${x.kind}`)),
  ),
)
const print = () => window.print()
const text = (form: string) =>
  `/api/watch/${props.page.id}/text?${new URLSearchParams({ form, ...(props.language && { language: props.language }) })}`
</script>

<template>
  <span v-if="page.takes.length" class="takes">
    <span class="soft">{{ t('watch.take') }}:</span>
    <template v-for="x in page.takes" :key="`${page.edition} ${x.kind}`">
      <template v-if="x.kind === 'text'">
        <a :href="text('txt')" download>{{ t('watch.kind.text') }}</a>
        <a :href="text('vtt')" download>{{ t('watch.kind.vtt') }}</a>
        <el-button v-if="printed" link @click="print">{{ t('watch.print') }}</el-button>
      </template>
      <TakeAway v-else :recording="page.id" :edition="page.edition" :kind="x.kind" />
    </template>
    <span v-if="alone" class="soft small">{{ t('watch.copy_staff', { kinds: alone }) }}</span>
  </span>
</template>

<style scoped>
.takes {
  display: inline-flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  align-items: center;
}
</style>
