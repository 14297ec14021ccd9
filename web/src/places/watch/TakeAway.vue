<script setup lang="ts">
/** One kind of copy to take away: asked for once, with its progress, then a file with its true size. */
import { useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import { askCopy, keys, useCopy, type CopyKind } from '../../api/queries'
import FaultNote from '../../parts/FaultNote.vue'
import { useForm } from '../../parts/form'
import { megabytes } from '../../parts/time'

const props = defineProps<{ recording: string; edition: string; kind: CopyKind }>()
const { t } = useI18n()
const client = useQueryClient()
const copy = useCopy(
  () => props.recording,
  () => props.edition,
  props.kind,
)
const name = computed(() => t(`watch.kind.${props.kind}`))
const form = useForm()
const state = computed(() => copy.data.value?.state ?? '')

async function make() {
  const now = await form.send(() => askCopy(props.recording, props.kind))
  if (now) client.setQueryData(keys.copy(props.recording, props.edition, props.kind), now)
}
</script>

<template>
  <span v-if="copy.data.value" class="copy" role="status">
    <a v-if="state === 'ready'" :href="copy.data.value.address" download>{{
      t('watch.download', { kind: name, mb: megabytes(copy.data.value.bytes) })
    }}</a>
    <template v-else-if="state === 'making'">
      {{ t('watch.copy_making', { kind: name, percent: copy.data.value.percent }) }}
      <progress :value="copy.data.value.percent" max="100" :aria-label="t('watch.copy_make', { kind: name })" />
    </template>
    <template v-else>
      <el-button link type="primary" :disabled="form.busy.value" @click="make">{{
        t(state === 'failed' ? 'watch.copy_again' : 'watch.copy_make', { kind: name })
      }}</el-button>
      <span v-if="state === 'failed'" class="soft small">{{ t('watch.copy_failed') }}</span>
    </template>
  </span>
  <FaultNote v-if="form.problem.value" :error="form.problem.value" />
</template>

<style scoped>
.copy {
  display: inline-flex;
  gap: 8px;
  align-items: center;
}

progress {
  width: 120px;
  accent-color: var(--kelp);
}
</style>
