<script setup lang="ts">
/** Takes a recording that was made elsewhere and sends it for a lecture. */
import { useQueryClient } from '@tanstack/vue-query'
import { computed, onScopeDispose, ref, shallowRef } from 'vue'
import { useI18n } from 'vue-i18n'
import { keys } from '../../api/queries'
import FaultNote from '../../parts/FaultNote.vue'
import KnownFile from './KnownFile.vue'
import { send, type Sender } from './sending'
import { useChoosing } from '../../parts/choosing'
import { megabytes } from '../../parts/time'

const props = defineProps<{ lecture: string }>()
const { t } = useI18n()
const client = useQueryClient()

const over = ref(false)
const sender = shallowRef<Sender>()
const it = computed(() => sender.value?.now)
const idle = computed(() => !it.value || ['failed', 'stopped', 'looking'].includes(it.value.state))
const percent = computed(() => (it.value && it.value.size > 0 ? Math.floor((it.value.sent / it.value.size) * 100) : 0))

const choose = useChoosing(
  () => t('file.kinds'),
  false,
  ([file]) => take(file),
)

function take(file: File | undefined) {
  if (!file || it.value?.state === 'sending' || it.value?.state === 'waiting') return
  const s = (sender.value = send(file, { lecture: props.lecture }))
  void s.ended.then(() => {
    if (s.now.state !== 'sent') return
    void client.invalidateQueries({ queryKey: keys.lecture(props.lecture) })
    void client.invalidateQueries({ queryKey: keys.board })
  })
}

function drop(e: DragEvent) {
  over.value = false
  take(e.dataTransfer?.files[0])
}

onScopeDispose(() => sender.value?.pause())
</script>

<template>
  <div class="drop" :class="{ over }" @dragover.prevent="over = true" @dragleave="over = false" @drop.prevent="drop">
    <template v-if="!it || idle">
      <p class="soft">{{ t('file.text') }}</p>
      <el-button @click="choose">{{ t('file.choose') }}</el-button>
    </template>
    <KnownFile
      v-else-if="it.state === 'known' && it.here"
      :name="it.name"
      :here="it.here"
      @leave="sender = undefined"
      @again="sender?.again()"
    />
    <template v-else>
      <p>
        <b>{{ it.name }}</b>
      </p>
      <el-progress :percentage="percent" :aria-label="t('file.progress', { name: it.name })" />
      <p class="soft" role="status">
        <template v-if="it.state === 'sent'">{{ t('file.sent') }}</template>
        <template v-else-if="it.state === 'waiting'">{{ t('file.waiting') }}</template>
        <template v-else>{{ t('file.sending', { done: megabytes(it.sent), all: megabytes(it.size) }) }}</template>
      </p>
      <el-button
        v-if="it.state === 'sent' && it.recording"
        tag="router-link"
        :to="{ name: 'trim-bench', params: { recording: it.recording } }"
        >{{ t('file.open') }}</el-button
      >
      <el-button v-else-if="it.state !== 'sent'" link @click="sender?.stop()">
        {{ t('file.stop') }}
      </el-button>
    </template>
    <FaultNote v-if="it?.fault" :error="it.fault" />
  </div>
</template>

<style scoped>
.drop {
  position: relative;
  padding: 14px 16px;
  border: 1px dashed var(--edge);
  border-radius: 4px;
}

.over {
  border-style: solid;
  background: var(--kelp-soft);
}
</style>
