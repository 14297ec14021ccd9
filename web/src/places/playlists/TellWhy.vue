<script setup lang="ts">
/** Students who are told nothing, or get no mail, and why; their names where they are few, or once asked for. */
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import type { NewsWhy } from '../../api/news'

const props = defineProps<{ why: NewsWhy; kind: 'none' | 'no_mail' }>()
const { t } = useI18n()
/** So many names are read at a glance. */
const few = 4
const all = ref(false)
const names = computed(() => props.why.names.slice(0, all.value ? undefined : few).join(', '))
const sentence = computed(() => {
  const n = props.why.names.length
  return t(`telling.${props.kind}.${props.why.why}`, { n }, n)
})
</script>

<template>
  <p class="small">
    {{ sentence }} <span class="soft">{{ names }}</span>
    <template v-if="why.names.length > few && !all">
      …
      <el-button link @click="all = true">{{ t('telling.all_names', { n: why.names.length }) }}</el-button>
    </template>
  </p>
</template>

<style scoped>
p {
  margin: 4px 0;
}
</style>
