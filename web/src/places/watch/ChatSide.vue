<script setup lang="ts">
/** What was said while it was captured, each line at its moment, and what was asked since. */
import { useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'
import { keys } from '../../api/queries'
import FaultNote from '../../parts/FaultNote.vue'
import UndoLine from '../../parts/UndoLine.vue'
import { useFollows } from '../../parts/follows'
import { fold } from '../../parts/fold'
import { useChatActs } from '../common/chat/acts'
import ChatLine from '../common/chat/ChatLine.vue'

const props = defineProps<{ page: Schemas['Watch']; said: Schemas['SaidIn']; at: number }>()
const emit = defineEmits<{ seek: [ms: number] }>()
const { t } = useI18n()
const client = useQueryClient()
const { act, fault, last } = useChatActs(
  () => props.page.lecture_id,
  () => void client.invalidateQueries({ queryKey: keys.saidIn(props.page.id) }),
)
const find = ref('')
const shown = computed(() => {
  const word = fold(find.value.trim())
  const all = props.said.lines
  return word ? all.filter((l) => fold(`${l.name} ${l.text} ${l.answer}`).includes(word)) : all
})
/** The line that was said last. */
const now = computed(() => props.said.lines.findLast((l) => (l.at ?? 0) <= props.at + 100)?.id)
const list = ref<HTMLElement>()
useFollows(
  list,
  () => now.value && `[data-line="${now.value}"]`,
  (box) => find.value !== '' || box.contains(document.activeElement),
)
const file = (form: string) => `/api/recordings/${props.page.id}/chat/file?form=${form}`
</script>

<template>
  <aside :aria-label="t('said_in.name')">
    <el-input v-model="find" type="search" :placeholder="t('said_in.find')" :aria-label="t('said_in.find')" clearable />
    <p v-if="shown.length === 0" class="soft small" role="status">{{ t('said_in.none') }}</p>
    <ol v-else ref="list" class="plain" tabindex="0" :aria-label="t('chat.lines')">
      <li v-for="l in shown" :key="l.id" :data-line="l.id">
        <ChatLine
          :line="l"
          :zone="page.zone"
          :teaches="said.teaches"
          moment
          :now="l.id === now"
          @act="act"
          @seek="emit('seek', l.at ?? 0)"
        />
      </li>
    </ol>
    <UndoLine v-if="last" :key="last.key" :text="last.text" :undo="last.undo" />
    <FaultNote v-if="fault" :error="fault" />
    <p v-if="said.teaches && said.lines.length > 0" class="small">
      {{ t('said_in.take') }}
      <a :href="file('txt')" download>{{ t('class_page.as_text') }}</a>
      <a :href="file('csv')" download>{{ t('class_page.as_sheet') }}</a>
      <a :href="file('vtt')" download>WebVTT</a>
    </p>
  </aside>
</template>

<style scoped>
aside {
  display: flex;
  flex-direction: column;
  gap: 8px;
  min-height: 0;
}

ol {
  position: relative;
  max-height: 58vh;
  overflow-y: auto;
  border: 1px solid var(--rule);
  border-radius: 4px;
  background: var(--shell);
}

p {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 14px;
  margin: 0;
}
</style>
