<script setup lang="ts">
/** Which other sites may show recordings and playlists in their pages. */
import { useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { setEmbedSites, useEmbedSites } from '../../api/embed'
import { keys } from '../../api/queries'
import FaultNote from '../../parts/FaultNote.vue'
import FormText from '../../parts/FormText.vue'
import { useForm } from '../../parts/form'
import { useUnsent } from '../../parts/unsent'

const { t } = useI18n()
const client = useQueryClient()
const page = useEmbedSites()
const { busy, fields, whole, send } = useForm()
const there = computed(() => (page.data.value?.sites ?? []).join('\n'))
const text = ref('')
const kept = ref(false)
watch(there, (now) => (text.value = now), { immediate: true })

useUnsent(
  () => !!page.data.value && !kept.value && text.value !== there.value,
  () => t('leave_unsent'),
)

async function keep() {
  const sites = text.value.split(/\s+/).filter((x) => x !== '')
  kept.value = (await send(() => setEmbedSites(sites).then(() => true))) ?? false
  if (kept.value) await client.invalidateQueries({ queryKey: keys.embedSites })
}
</script>

<template>
  <h2 id="sites">{{ t('share.sites') }}</h2>
  <form class="page" @submit.prevent="keep">
    <FormText
      v-model="text"
      :label="t('share.sites_label')"
      :help="t('share.sites_help')"
      :fault="fields.sites"
      size="wide"
      type="textarea"
      :rows="3"
      @input="kept = false"
    />
    <FaultNote v-if="whole" :error="whole" />
    <div class="bar-of-acts">
      <el-button type="primary" native-type="submit" :disabled="busy">{{ t('keep') }}</el-button>
      <span role="status">{{ kept ? t('share.kept') : '' }}</span>
    </div>
  </form>
</template>

<style scoped>
h2 {
  margin: 18px 0 6px;
}

.bar-of-acts {
  margin-top: 12px;
}
</style>
