<script setup lang="ts">
/** Which other sites may show recordings and playlists in their pages. */
import { useQueryClient } from '@tanstack/vue-query'
import { useI18n } from 'vue-i18n'
import { setEmbedSites, useEmbedSites } from '../../api/embed'
import { keys } from '../../api/queries'
import FaultNote from '../../parts/FaultNote.vue'
import FormText from '../../parts/FormText.vue'
import UndoLine from '../../parts/UndoLine.vue'
import { useForm } from '../../parts/form'

const { t } = useI18n()
const client = useQueryClient()
const page = useEmbedSites()
const { draft, changed, busy, fields, whole, done, keep } = useForm(
  () => page.data.value && { text: page.data.value.sites.join('\n') },
)
const write = (d: { text: string }) => setEmbedSites(d.text.split(/\s+/).filter((x) => x !== ''))
const again = () => client.invalidateQueries({ queryKey: keys.embedSites })
</script>

<template>
  <h2 id="sites">{{ t('share.sites') }}</h2>
  <form v-if="draft" class="page" @submit.prevent="keep(write, t('share.kept'), again)">
    <FormText
      v-model="draft.text"
      :label="t('share.sites_label')"
      :help="t('share.sites_help')"
      :fault="fields.sites"
      size="wide"
      type="textarea"
      :rows="3"
    />
    <FaultNote v-if="whole" :error="whole" />
    <div class="bar-of-acts">
      <el-button type="primary" native-type="submit" :disabled="busy || !changed">{{ t('keep') }}</el-button>
    </div>
    <UndoLine v-if="done" v-bind="done" :key="done.key" />
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
