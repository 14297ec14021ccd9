<script setup lang="ts">
/** What these captions are, how far, and whether those who watch read them; and what can be done about it. */
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import type { useCaptionChanges } from '../../api/captions'
import type { Schemas } from '../../api/client'
import { say } from '../../messages/said'
import FaultNote from '../../parts/FaultNote.vue'
import { useForm } from '../../parts/form'

const props = defineProps<{ captions: Schemas['CaptionsInfo']; changes: ReturnType<typeof useCaptionChanges> }>()
const { t } = useI18n()
const { busy, problem, act: go } = useForm()
const it = computed(() => props.captions)
</script>

<template>
  <div class="state">
    <p v-if="it.state === 'failed'" class="tally" role="status">
      {{ t('captions.failed', { fault: say(it.fault ?? {}) }) }}
      <el-button link :disabled="busy" @click="go(changes.draft)">{{ t('again') }}</el-button>
    </p>
    <p v-else-if="it.state === 'waiting'" role="status">
      {{ it.fault ? t('captions.later', { fault: say(it.fault) }) : t('captions.waiting') }}
    </p>
    <p v-else-if="it.state === 'making'" role="status">
      {{ t('captions.making', { n: it.share }) }}
      <progress :value="it.share" max="100" :aria-label="t('bench.progress')" />
    </p>
    <p v-if="it.drafted_by && it.lines > 0" :class="{ draft: it.draft }">
      <template v-if="it.draft">{{ t('captions.draft', { by: it.drafted_by }) }}</template>
      {{ t('captions.corrected', { n: it.corrected, of: it.lines }) }}.
    </p>
    <p v-if="it.state !== 'failed' && it.lines > 0" class="acts">
      <span>{{ it.shown ? t('captions.shown') : t('captions.hidden') }}</span>
      <el-button v-if="it.shown" link :disabled="busy" @click="go(() => changes.show(false))">
        {{ t('captions.hide') }}
      </el-button>
      <template v-else>
        <el-button :type="it.draft ? 'default' : 'primary'" :disabled="busy" @click="go(() => changes.show(true))">
          {{ t('captions.show') }}
        </el-button>
        <el-button v-if="it.draft" :disabled="busy" @click="go(() => changes.look(true))">
          {{ t('captions.looked') }}
        </el-button>
        <span v-else-if="it.drafted_by" class="soft">{{ t('captions.looked_done') }}</span>
      </template>
      <el-button
        v-if="it.drafted_by && it.state === 'ready' && it.corrected === 0"
        link
        :disabled="busy"
        @click="go(changes.draft)"
      >
        {{ t('captions.draft_again') }}
      </el-button>
    </p>
    <p v-else-if="it.state === 'ready'" class="soft">{{ t('captions.empty') }}</p>
    <FaultNote v-if="problem" :error="problem" />
  </div>
</template>

<style scoped>
.state {
  margin-top: 10px;
}

.draft {
  padding-inline-start: 10px;
  border-inline-start: 3px double var(--edge);
}

.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 14px;
  align-items: center;
}
</style>
