<script setup lang="ts">
/** Below what plays: to what one missed, captions, over silences, and the keys. */
import { computed, defineAsyncComponent } from 'vue'
import { useI18n } from 'vue-i18n'
import { captionPlaces, captionSizes, type CaptionPlace, type CaptionSize } from '../../parts/OnScreen.vue'
import { useLanguageNames } from '../../parts/language'
import { durationText, timecode } from '../../parts/time'

/** Few choose, and what one chooses with is heavy. */
const ChoiceList = defineAsyncComponent(() => import('../../parts/ChoiceList.vue'))
const props = defineProps<{
  /** Where the missed stretch that comes next begins. */
  missed?: number
  captioned: boolean
  languages: string[]
  /** How much time it saves to go over silences; 0 for none. */
  saves: number
}>()
const emit = defineEmits<{ missed: []; keys: [] }>()
const onPicture = defineModel<boolean>('onPicture', { required: true })
const size = defineModel<CaptionSize>('size', { required: true })
const place = defineModel<CaptionPlace>('place', { required: true })
const language = defineModel<string>('language', { required: true })
const skips = defineModel<boolean>('skips', { required: true })
const { t } = useI18n()
const nameOf = useLanguageNames()
const sizes = captionSizes.map((value) => ({ value, text: t(`watch.caption_size.${value}`) }))
const places = captionPlaces.map((value) => ({ value, text: t(`watch.caption_place.${value}`) }))
const languages = computed(() => props.languages.map((value) => ({ value, text: nameOf(value) })))
</script>

<template>
  <p class="small reading">
    <el-button v-if="missed !== undefined" @click="emit('missed')">{{
      t('watch.next_missed', { at: timecode(missed) })
    }}</el-button>
    <template v-if="captioned">
      <el-checkbox v-model="onPicture">{{ t('watch.captions') }}</el-checkbox>
      <template v-if="onPicture">
        <ChoiceList v-model="size" bare :label="t('watch.caption_size.name')" :options="sizes" />
        <ChoiceList v-model="place" bare :label="t('watch.caption_place.name')" :options="places" />
      </template>
      <ChoiceList v-if="languages.length > 1" v-model="language" :label="t('watch.language')" :options="languages" />
    </template>
    <el-checkbox v-if="saves > 0" v-model="skips">{{
      t('watch.silences', { saves: durationText(saves) })
    }}</el-checkbox>
    <el-button link @click="emit('keys')">{{ t('watch.keys.title') }}</el-button>
  </p>
</template>

<style scoped>
.reading {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 20px;
  align-items: center;
  margin: 8px 0 0;
}
</style>
