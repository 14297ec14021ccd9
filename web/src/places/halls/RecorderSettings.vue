<script setup lang="ts">
/** Putting a recorder into a hall, its token, and taking it out. */
import { useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { addRecorder, renewToken, useRecorderChange } from '../../api/halls'
import type { Schemas } from '../../api/client'
import { keys } from '../../api/queries'
import CopyLine from '../../parts/CopyLine.vue'
import FaultNote from '../../parts/FaultNote.vue'
import FormText from '../../parts/FormText.vue'
import UndoLine from '../../parts/UndoLine.vue'
import { useForm } from '../../parts/form'

const props = defineProps<{ hall: Schemas['HallNow'] }>()
const { t } = useI18n()
const client = useQueryClient()
const change = useRecorderChange()
const { busy, fields, whole, send } = useForm()
const r = computed(() => props.hall.recorder)
const adding = ref(false)
const name = ref('')
const token = ref('')
const done = ref<{ text: string; undo: () => Promise<unknown> }>()

async function show(make: () => Promise<Schemas['RecorderToken']>) {
  const got = await send(make)
  if (!got) return
  token.value = got.token
  adding.value = false
  done.value = undefined
  void client.invalidateQueries({ queryKey: keys.halls })
}

async function take(what: 'hold' | 'remove') {
  const x = r.value!
  const to = (forth: boolean) => ({
    recorder: x.id,
    change:
      what === 'hold'
        ? { do: 'hold' as const, holds: !forth }
        : { do: forth ? ('remove' as const) : ('bring_back' as const) },
  })
  token.value = ''
  await send(() => change.mutateAsync(to(true)))
  const key = what === 'hold' ? 'halls.taken_back' : 'halls.removed'
  done.value = { text: t(key, { name: x.name, hall: props.hall.name }), undo: () => change.mutateAsync(to(false)) }
}
</script>

<template>
  <div class="settings">
    <UndoLine v-if="done" :key="done.text" :text="done.text" :undo="done.undo" @undone="done = undefined" />
    <div v-if="token && r" class="token">
      <p>
        <b>{{ t('halls.token', { name: r.name }) }}</b> {{ t('halls.token_once') }}
      </p>
      <CopyLine :label="t('halls.token', { name: r.name })" :text="token" />
    </div>
    <FaultNote v-if="whole" :error="whole" />
    <template v-if="!r">
      <el-button v-if="!adding" link :aria-label="`${t('halls.put')}: ${hall.name}`" @click="adding = true">
        {{ t('halls.put') }}
      </el-button>
      <form v-else class="bar-of-acts" @submit.prevent="show(() => addRecorder(hall.id, name))">
        <FormText v-model="name" :label="t('halls.name')" :fault="fields.name" :help="t('halls.name_help')" />
        <el-button type="primary" native-type="submit" :disabled="busy">{{ t('halls.put') }}</el-button>
        <el-button link @click="adding = false">{{ t('leave') }}</el-button>
      </form>
    </template>
    <details v-else>
      <summary :aria-label="t('halls.more', { name: r.name })">{{ t('halls.more_short') }}</summary>
      <div class="bar-of-acts">
        <el-button :disabled="busy" @click="show(() => renewToken(r!.id))">
          {{ t('halls.renew') }}
        </el-button>
        <el-button v-if="r.state !== 'taken_back'" link :disabled="busy" @click="take('hold')">
          {{ t('halls.take_back') }}
        </el-button>
        <el-button v-else link @click="change.mutate({ recorder: r.id, change: { do: 'hold', holds: true } })">
          {{ t('halls.hold') }}
        </el-button>
        <el-button link :disabled="busy" @click="take('remove')">{{ t('halls.remove') }}</el-button>
      </div>
    </details>
  </div>
</template>

<style scoped>
summary {
  min-height: 24px;
  color: var(--kelp);
  cursor: pointer;
}

.token {
  margin: 8px 0;
  padding: 10px 12px;
  border-inline-start: 4px solid var(--kelp);
  background: var(--kelp-soft);
}

.token p {
  margin: 0 0 6px;
}
</style>
