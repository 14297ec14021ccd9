<script setup lang="ts">
/** What readers propose that lines should say: taken with one press, or the line is left as it is. */
import { ref } from 'vue'
import { useI18n } from 'vue-i18n'
import type { useCaptionChanges } from '../../api/captions'
import type { Schemas } from '../../api/client'
import FaultNote from '../../parts/FaultNote.vue'
import UndoLine from '../../parts/UndoLine.vue'
import { useForm } from '../../parts/form'
import { timecode } from '../../parts/time'
import { apart } from './apart'

type Proposed = Schemas['ProposedLine']
const props = defineProps<{ proposed: Proposed[]; changes: ReturnType<typeof useCaptionChanges> }>()
const emit = defineEmits<{ play: [line: string] }>()
const { t } = useI18n()
const form = useForm()
/** What was done last, and how it is taken back. */
const done = ref<{ key: string; text: string; back: () => Promise<unknown> }>()

async function take(p: Proposed) {
  done.value = undefined
  if (await form.send(() => props.changes.take(p.id)))
    done.value = { key: p.id, text: t('proposed.taken', { text: p.text }), back: props.changes.undo }
}

async function leave(p: Proposed) {
  done.value = undefined
  if (await form.send(() => props.changes.leave(p.id)))
    done.value = { key: p.id, text: t('proposed.left', { text: p.seen }), back: () => props.changes.again(p.id) }
}
</script>

<template>
  <section v-if="proposed.length > 0 || done" class="proposed" aria-labelledby="proposed">
    <h2 id="proposed">{{ t('proposed.title', { n: proposed.length }, proposed.length) }}</h2>
    <ul class="plain">
      <li v-for="p in proposed" :key="p.id">
        <el-button
          link
          class="mono"
          :aria-label="t('proposed.play', { at: timecode(p.at) })"
          @click="emit('play', p.line)"
          >{{ timecode(p.at) }}</el-button
        >
        <p>
          {{ apart(p.seen, p.text).before }}
          <del v-if="apart(p.seen, p.text).was">{{ apart(p.seen, p.text).was }}</del>
          <ins v-if="apart(p.seen, p.text).is">{{ apart(p.seen, p.text).is }}</ins>
          {{ apart(p.seen, p.text).after }}
          <span class="soft small">{{ p.name }}</span>
        </p>
        <span class="do">
          <el-button
            :disabled="form.busy.value"
            :aria-label="t('proposed.take_it', { text: p.text })"
            @click="take(p)"
            >{{ t('proposed.take') }}</el-button
          >
          <el-button
            link
            :disabled="form.busy.value"
            :aria-label="t('proposed.leave_it', { text: p.seen })"
            @click="leave(p)"
            >{{ t('proposed.leave') }}</el-button
          >
        </span>
      </li>
    </ul>
    <FaultNote v-if="form.problem.value" :error="form.problem.value" />
    <UndoLine v-if="done" :key="done.key" :text="done.text" :undo="done.back" />
  </section>
</template>

<style scoped>
.proposed {
  margin: 14px 0;
  padding: 10px 14px;
  border-inline-start: 4px solid var(--kelp);
  background: var(--kelp-soft);
}

h2::first-letter {
  text-transform: uppercase;
}

h2 {
  margin: 0 0 4px;
  font-size: 17px;
}

li {
  display: grid;
  grid-template-columns: 52px 1fr auto;
  gap: 4px 12px;
  align-items: center;
  padding: 6px 0;
}

li + li {
  border-top: 1px solid var(--rule);
}

li p {
  margin: 0;
}

ins {
  font-weight: 700;
  text-decoration-thickness: 2px;
}

.do {
  display: flex;
  gap: 12px;
  align-items: center;
}

@media (max-width: 700px) {
  .do {
    grid-column: 2;
  }
}
</style>
