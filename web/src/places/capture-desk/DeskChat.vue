<script setup lang="ts">
/** The chat at the capture desk, closed until one wants it: what waits is said beside it. */
import { computed, defineAsyncComponent, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { useChat } from '../../api/chat'

const ChatPane = defineAsyncComponent(() => import('../common/chat/ChatPane.vue'))
const ToAllPane = defineAsyncComponent(() => import('../common/to-all/ToAllPane.vue'))

const props = defineProps<{ lecture: string; zone: string; course?: string }>()
const { t } = useI18n()
const chat = useChat(() => props.lecture)
const open = ref(false)
const waits = computed(() => (chat.data.value?.lines ?? []).filter((l) => l.state === 'open' && !l.gone).length)
</script>

<template>
  <details class="desk-chat" @toggle="open = ($event.target as HTMLDetailsElement).open">
    <summary>
      {{ t('class_page.at_desk') }}
      <b v-if="waits > 0">{{ t('questions_page.count', { n: waits }, waits) }}</b>
    </summary>
    <ChatPane v-if="open" :lecture="lecture" :zone="zone" />
    <ToAllPane v-if="open && course" class="to-all" :lecture="lecture" :course="course" />
    <p class="small">
      <router-link :to="{ name: 'class', params: { lecture } }" target="_blank">{{
        t('class_page.own_tab')
      }}</router-link>
    </p>
  </details>
</template>

<style scoped>
.desk-chat {
  --chat-high: 40vh;

  margin: 12px 0;
}

.to-all {
  margin-top: 12px;
}

summary {
  min-height: 24px;
  color: var(--kelp);
  cursor: pointer;
}

p {
  margin: 6px 0 0;
}
</style>
