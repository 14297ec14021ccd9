<script setup lang="ts">
/** What the college says to everyone who is captured. */
import { useQueryClient } from '@tanstack/vue-query'
import { useI18n } from 'vue-i18n'
import { keys, setCollege, useCollege } from '../../api/queries'
import FaultNote from '../../parts/FaultNote.vue'
import FormText from '../../parts/FormText.vue'
import UndoLine from '../../parts/UndoLine.vue'
import { useForm } from '../../parts/form'

const { t } = useI18n()
const client = useQueryClient()
const college = useCollege()
const { draft, changed, busy, fields, whole, done, keep } = useForm(
  () => college.data.value && { capture_notice: college.data.value.capture_notice },
)
const again = () => client.invalidateQueries({ queryKey: keys.college })
</script>

<template>
  <h2>{{ t('notice.college') }}</h2>
  <form v-if="draft" class="page" @submit.prevent="keep(setCollege, t('notice.kept'), again)">
    <FormText
      v-model="draft.capture_notice"
      :label="t('notice.college')"
      :help="t('notice.college_hint')"
      :fault="fields.capture_notice"
      size="wide"
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
