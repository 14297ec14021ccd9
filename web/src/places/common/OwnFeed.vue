<script setup lang="ts">
/** One's own feed of a course or of one of its playlists: an address for apps, what it has and what it has not. */
import { computed, ref, shallowRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { ownFeed, type RecordingFeed } from '../../api/feeds'
import ChoiceList from '../../parts/ChoiceList.vue'
import CopyLine from '../../parts/CopyLine.vue'
import FaultNote from '../../parts/FaultNote.vue'
import PageSheet from '../../parts/PageSheet.vue'
import { useForm } from '../../parts/form'

const props = defineProps<{ course: { id: string; code: string }; list?: string }>()
const emit = defineEmits<{ close: [] }>()
const { t } = useI18n()
const { busy, problem, send } = useForm()
const feed = shallowRef<RecordingFeed>()
const renewed = ref(false)
const kind = ref('sound')
/** A playlist, or all that the course shows. */
const list = ref(props.list ?? '')

async function look(renew = false) {
  const got = await send(() => ownFeed(props.course.id, list.value, renew))
  if (!got) return
  feed.value = got
  renewed.value = renew
}
watch(list, () => look(), { immediate: true })

const lists = computed(() => [
  { value: '', text: t('own_feed.all') },
  ...(feed.value?.lists ?? []).map((l) => ({ value: l.id, text: l.title || t('own_feed.main') })),
])
const here = computed(() => feed.value?.kinds.find((k) => k.kind === kind.value) ?? feed.value?.kinds[0])
const chosen = computed({ get: () => here.value?.kind ?? '', set: (k) => (kind.value = k) })
const count = (what: 'here' | 'waits' | 'without', n: number) => (n > 0 ? [t(`own_feed.${what}`, { n }, n)] : [])
const has = computed(() => {
  const k = here.value
  return k ? [...count('here', k.here), ...count('waits', k.waits), ...count('without', k.without)].join(' ') : ''
})
</script>

<template>
  <PageSheet open :title="t('own_feed.title', { course: course.code })" @close="emit('close')">
    <p>{{ t('own_feed.text') }}</p>
    <template v-if="feed">
      <ChoiceList v-if="feed.lists.length > 1" v-model="list" :label="t('own_feed.of')" :options="lists" />
      <p v-if="!here" role="status">{{ t(feed.open > 0 ? 'own_feed.none' : 'own_feed.empty') }}</p>
      <template v-else>
        <fieldset>
          <legend>{{ t('own_feed.kind') }}</legend>
          <el-radio-group v-model="chosen">
            <el-radio v-for="k in feed.kinds" :key="k.kind" :value="k.kind">{{
              t(`own_feed.kinds.${k.kind}`)
            }}</el-radio>
          </el-radio-group>
        </fieldset>
        <p class="of" aria-hidden="true">{{ t('own_feed.address') }}</p>
        <CopyLine :key="here.address" :label="t('own_feed.address')" :text="here.address" />
        <p class="has" role="status">{{ has }}</p>
        <p class="soft">{{ t('own_feed.secret') }}</p>
        <p>
          <el-button link :disabled="busy" @click="look(true)">{{ t('own_feed.renew') }}</el-button>
        </p>
        <p v-if="renewed" role="status">{{ t('own_feed.renewed') }}</p>
      </template>
    </template>
    <FaultNote v-if="problem" :error="problem" again @again="look()" />
  </PageSheet>
</template>

<style scoped>
fieldset {
  margin: 16px 0;
  padding: 0;
  border: 0;
}

legend,
.of {
  margin: 0 0 4px;
  padding: 0;
  font-weight: 600;
}

.has {
  margin-top: 14px;
}

.el-radio-group {
  display: flex;
  flex-wrap: wrap;
  gap: 0 22px;
}
</style>
