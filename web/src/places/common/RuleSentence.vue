<script setup lang="ts">
/** A right as its sentence: for whom, to do what, from and until when. Each bold part opens its choices under it. */
import { computed, ref } from 'vue'
import { I18nT, useI18n } from 'vue-i18n'
import type { Right, Use } from '../../api/rules'
import WindowChoice from './WindowChoice.vue'
import { useRightWords } from './ruleWords'

type Part = 'who' | 'may' | 'from' | 'until'
const right = defineModel<Right>({ required: true })
const props = defineProps<{
  /** For whom it is, as it stands in the sentence; its choices are in the slot. */
  who: string
  zone: string
  /** Which part's choices are open at first. */
  first?: Part
}>()
const { t } = useI18n()
const words = useRightWords(() => props.zone)
const open = ref<Part | ''>(props.first ?? '')
defineExpose({ show: (part: Part) => (open.value = part) })
const text = computed<Record<Part, string>>(() => ({
  who: props.who,
  may: words.may(right.value.uses),
  from: words.from(right.value),
  until: words.until(right.value),
}))
const parts: Part[] = ['who', 'may', 'from', 'until']
const kinds: Use[] = ['take_video', 'take_small', 'take_sound', 'take_text']

function toggle(use: Use, on: boolean) {
  const uses = right.value.uses.filter((u) => u !== use)
  right.value = { ...right.value, uses: on ? [...uses, use] : uses }
}
</script>

<template>
  <div>
    <I18nT
      :keypath="right.from === 'once' ? 'rule.sentence_once' : 'rule.sentence'"
      tag="p"
      class="sentence"
      scope="global"
    >
      <template v-for="p in parts" :key="p" #[p]>
        <button type="button" :aria-expanded="open === p" aria-controls="choices" @click="open = open === p ? '' : p">
          {{ text[p] }}
        </button>
      </template>
    </I18nT>
    <fieldset v-if="open" id="choices">
      <legend class="away">{{ t(`rule.choose_${open}`) }}</legend>
      <slot v-if="open === 'who'" />
      <template v-else-if="open === 'may'">
        <el-checkbox :model-value="true" disabled>{{ t('rule.use.watch') }}</el-checkbox>
        <el-checkbox
          :model-value="right.uses.includes('read')"
          @update:model-value="(on: string | number | boolean) => toggle('read', on === true)"
        >
          {{ t('rule.use.read') }}
        </el-checkbox>
        <span class="soft">{{ t('rule.take_what') }}</span>
        <el-checkbox
          v-for="k in kinds"
          :key="k"
          :model-value="right.uses.includes(k)"
          @update:model-value="(on: string | number | boolean) => toggle(k, on === true)"
        >
          {{ t(`rule.use.${k}`) }}
        </el-checkbox>
      </template>
      <WindowChoice v-else v-model="right" :end="open" :zone="zone" />
    </fieldset>
  </div>
</template>

<style scoped>
.sentence {
  max-width: 880px;
  font: 22px/1.7 var(--serif);
}

.sentence button {
  display: inline;
  padding: 0;
  border: 0;
  background: none;
  color: var(--ink);
  font: 600 22px/1.4 var(--serif);
  text-align: start;
  text-decoration: underline 2px var(--kelp);
  text-underline-offset: 5px;
  cursor: pointer;
}

.sentence button[aria-expanded='true'] {
  background: var(--kelp-soft);
}

fieldset {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 22px;
  align-items: center;
  margin: 0 0 10px;
  padding: 10px 16px;
  border: 1px solid var(--rule-strong);
  border-radius: 4px;
}

fieldset :deep(.el-checkbox),
fieldset :deep(.el-radio) {
  margin-inline-end: 0;
}
</style>
