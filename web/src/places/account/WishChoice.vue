<script setup lang="ts">
/** How often one wants mail of what is new; kept at once. With the key of a mail, also by who has not signed in. */
import { onMounted, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { oftens, setWish, wish, type Often } from '../../api/news'
import FaultNote from '../../parts/FaultNote.vue'
import UndoLine from '../../parts/UndoLine.vue'
import { useForm } from '../../parts/form'

const props = defineProps<{ letter?: string }>()
const { t } = useI18n()
const form = useForm()
const often = ref<Often>()
const done = ref<{ key: number; was: Often }>()

onMounted(async () => {
  often.value = (await form.send(() => wish(props.letter)))?.often
})

async function keep(now: Often) {
  const was = often.value
  if (!was || !(await form.act(() => setWish(now, props.letter)))) return
  often.value = now
  done.value = { key: Date.now(), was }
}
async function back() {
  await setWish(done.value!.was, props.letter)
  often.value = done.value!.was
}
</script>

<template>
  <div v-if="often">
    <slot :often="often" :stop="() => keep('never')" :busy="form.busy.value" />
    <el-radio-group :model-value="often" :aria-label="t('wish.title')" @change="(x) => keep(x as Often)">
      <el-radio v-for="o in oftens" :key="o" :value="o">{{ t(`wish.${o}`) }}</el-radio>
    </el-radio-group>
    <UndoLine v-if="done" :key="done.key" :text="t(`wish.kept_${often}`)" :undo="back" />
  </div>
  <FaultNote v-if="form.problem.value" :error="form.problem.value" />
</template>

<style scoped>
.el-radio-group {
  display: flex;
  gap: 2px 20px;
}

.el-radio {
  margin-inline-end: 0;
}
</style>
