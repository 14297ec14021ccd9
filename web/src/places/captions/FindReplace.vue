<script setup lang="ts">
/** Finding words in all lines, and putting others in their place. */
import { computed, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Replacing } from '../../api/captions'
import FaultNote from '../../parts/FaultNote.vue'

const props = defineProps<{
  count: (r: Replacing) => Promise<number>
  replace: (r: Replacing) => Promise<number>
  /** Changes when the lines do, so that it is counted again. */
  seen: unknown
}>()
const emit = defineEmits<{ find: [text: string]; next: [] }>()
const { t } = useI18n()
const find = ref('')
const put = ref('')
const exact = ref(false)
const whole = ref(false)
const places = ref<number>()
const done = ref('')
const fault = ref<unknown>()
const wanted = computed<Replacing>(() => ({
  find: find.value,
  with: put.value,
  exact: exact.value,
  whole: whole.value,
}))
let turn = 0

watch([find, exact, whole, () => props.seen], async () => {
  const mine = ++turn
  emit('find', find.value)
  if (find.value === '') {
    places.value = undefined
    return
  }
  try {
    const n = await props.count(wanted.value)
    if (mine === turn) places.value = n
  } catch (e) {
    fault.value = e
  }
})
watch([find, put], () => (done.value = ''))

async function go() {
  fault.value = undefined
  try {
    const n = await props.replace(wanted.value)
    done.value = t('captions.replaced', { n }, n)
  } catch (e) {
    fault.value = e
  }
}
</script>

<template>
  <form class="find small" role="search" @submit.prevent="emit('next')">
    <label>
      {{ t('captions.find') }}
      <input v-model="find" class="entry" type="search" maxlength="200" />
    </label>
    <label>
      {{ t('captions.with') }}
      <input v-model="put" class="entry" maxlength="200" />
    </label>
    <label><input v-model="whole" type="checkbox" /> {{ t('captions.whole') }}</label>
    <label><input v-model="exact" type="checkbox" /> {{ t('captions.exact') }}</label>
    <span v-if="places !== undefined" role="status" class="soft">{{ t('captions.found', { n: places }, places) }}</span>
    <template v-if="places">
      <button class="word" type="submit">{{ t('captions.next_hit') }}</button>
      <button class="act quiet" type="button" @click="go">{{ t('captions.replace') }}</button>
    </template>
    <span v-if="done" role="status">{{ done }}</span>
    <FaultNote v-if="fault" :error="fault" />
  </form>
</template>

<style scoped>
.find {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 14px;
  align-items: center;
  padding: 8px 0;
}

.entry {
  width: 150px;
  min-height: 30px;
  padding: 3px 8px;
  font-size: 14px;
}

.act {
  min-height: 30px;
  padding: 3px 12px;
}
</style>
