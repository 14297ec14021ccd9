<script setup lang="ts">
/** The one thing the recording waits for, as one press; and who can watch it now. */
import { useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'
import type { BenchChange } from '../../api/bench'
import { setSilent } from '../../api/news'
import { usePlaylistChange } from '../../api/playlists'
import { keys } from '../../api/queries'
import BenchWords from './BenchWords.vue'
import FaultNote from '../../parts/FaultNote.vue'
import LanternSign from '../../parts/LanternSign.vue'
import UndoLine from '../../parts/UndoLine.vue'
import { useForm } from '../../parts/form'
import LightSheet from '../common/LightSheet.vue'
import ShareSheet from '../common/ShareSheet.vue'
import RuleText from '../common/RuleText.vue'
import WhoSheet from '../common/WhoSheet.vue'

const props = defineProps<{ bench: Schemas['Bench']; open: number; busy: boolean }>()
const emit = defineEmits<{ make: [c: BenchChange]; strikeAll: []; chapters: [] }>()
const { t } = useI18n()
const who = ref(false)
const lighting = ref(false)
const sharing = ref(false)
const playlist = usePlaylistChange(() => ({ course: props.bench.course.id }))

const next = computed(() =>
  props.bench.state === 'ready' && props.bench.lecture.next !== 'stop' ? props.bench.lecture.next : '',
)
const light = computed(() => props.bench.lecture)
const code = computed(() => ({ course: props.bench.course.code }))
const toTell = computed(() => ({ name: 'playlist', params: { course: props.bench.course.id }, query: { tell: 'yes' } }))
const client = useQueryClient()
const form = useForm()
/** How often somebody said here that nobody need be told. */
const silent = ref(0)
async function quiet(now: boolean) {
  await setSilent(props.bench.course.id, [props.bench.id], now)
  void client.invalidateQueries({ queryKey: keys.recording(props.bench.id) })
  void client.invalidateQueries({ queryKey: keys.board })
}
const leave = async () => {
  if (await form.act(() => quiet(true))) silent.value++
}
const toRule = computed(() => ({
  name: 'rule',
  params: { course: props.bench.course.id },
  query: { for: props.bench.id },
}))
</script>

<template>
  <div class="next">
    <template v-if="next === 'trim'">
      <p v-if="open > 0">
        <el-button type="primary" :disabled="busy" @click="emit('strikeAll')">
          {{ t('next.strike_all', { n: open }, open) }}
        </el-button>
      </p>
      <p>
        <el-button :type="open > 0 ? 'default' : 'primary'" :disabled="busy" @click="emit('make', { do: 'as_is' })">
          {{ t('next.as_is') }}
        </el-button>
      </p>
    </template>
    <template v-else-if="next === 'title'">
      <p>{{ t('next.title_text') }}</p>
      <p>
        <el-button type="primary" :disabled="busy" @click="emit('make', { do: 'title', title: bench.title })">
          {{ t('next.title') }}
        </el-button>
      </p>
      <p class="small">
        <router-link :to="{ name: 'titles', query: { course: bench.course.id } }">{{ t('titles.many') }}</router-link>
      </p>
    </template>
    <p v-else-if="next === 'rule'">
      <el-button tag="router-link" type="primary" :to="toRule">{{ t('step_do.rule', code) }}</el-button>
    </p>
    <p v-else-if="next === 'playlist'">
      <el-button
        type="primary"
        :disabled="playlist.isPending.value"
        @click="playlist.mutate({ do: 'add', recordings: [bench.id] })"
      >
        {{ t('step_do.playlist', code) }}
      </el-button>
    </p>
    <template v-else-if="next === 'light' || next === 'publish'">
      <p v-if="next === 'publish' && !bench.making">{{ t('next.publish_text') }}</p>
      <p v-if="!bench.making">
        <el-button type="primary" :disabled="busy" @click="emit('make', { do: 'light' })">
          {{ t(`step_do.${next}`, code) }}
        </el-button>
      </p>
    </template>
    <p v-else-if="next === 'words'">
      <el-button tag="router-link" type="primary" :to="{ name: 'captions', params: { recording: bench.id } }">{{
        t('step_do.words')
      }}</el-button>
    </p>
    <template v-else-if="next === 'tell'">
      <p>
        <el-button tag="router-link" type="primary" :to="toTell">{{ t('step_do.tell', code) }}</el-button>
      </p>
      <p class="small">
        <el-button link :disabled="form.busy.value" @click="leave">{{ t('next.silent') }}</el-button>
      </p>
    </template>
    <UndoLine v-if="silent" :key="silent" :text="t('next.silenced')" :undo="() => quiet(false)" />
    <FaultNote v-if="form.problem.value" :error="form.problem.value" />
    <p v-if="bench.making" role="status">{{ t(bench.published ? 'next.making' : 'next.making_first') }}</p>
    <p v-if="bench.making_fault" class="tally" role="alert">
      {{ t(bench.published ? 'next.making_fault' : 'next.making_fault_first') }}
    </p>
    <FaultNote v-if="playlist.error.value" :error="playlist.error.value" />

    <div class="light">
      <LanternSign :state="light.state" :can="light.can" :of="light.of" mute :size="34" />
      <div>
        <div>{{ t('next.can', { can: light.can, of: light.of, ...code }) }}</div>
        <el-button link @click="who = true">{{ t('next.who') }}</el-button>
      </div>
    </div>
    <RuleText v-if="bench.ruled && next !== 'rule'" :course="bench.course.id" :recording="bench.id" />
    <BenchWords :recording="bench.id" @chapters="emit('chapters')" />
    <ul class="plain ways">
      <li v-if="bench.lit">
        <router-link :to="{ name: 'watch', params: { recording: bench.id } }">{{ t('next.watch') }}</router-link>
      </li>
      <li>
        <router-link :to="{ name: 'playlist', params: { course: bench.course.id } }">{{
          t('next.playlist', code)
        }}</router-link>
      </li>
      <li v-if="bench.state === 'ready'">
        <el-button link @click="lighting = true">{{ t('lighting.open') }}</el-button>
      </li>
      <li v-if="bench.state === 'ready'">
        <el-button link @click="sharing = true">{{ t('share.open') }}</el-button>
      </li>
      <li v-if="bench.lit">
        <el-button link @click="emit('make', { do: 'darken' })">{{ t('next.darken', code) }}</el-button>
      </li>
    </ul>
    <LightSheet
      v-if="lighting"
      :recordings="[{ id: bench.id, title: bench.title }]"
      :course="bench.course.id"
      :zone="bench.zone"
      @close="lighting = false"
    />
    <ShareSheet
      v-if="sharing"
      :of="{ course: bench.course.id, recording: bench.id }"
      :title="bench.title"
      @close="sharing = false"
    />
    <WhoSheet v-if="who" :recording="bench.id" :course="bench.course.id" @close="who = false" />
  </div>
</template>

<style scoped>
.next {
  margin-top: 18px;
}

.el-button:not(.is-link) {
  width: 100%;
}

.light {
  display: flex;
  gap: 14px;
  align-items: center;
  margin: 18px 0;
}

.ways li {
  padding: 3px 0;
}
</style>
