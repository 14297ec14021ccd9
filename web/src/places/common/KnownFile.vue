<script setup lang="ts">
/** A file that is here already: where, and whether it is sent all the same. */
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'

defineProps<{ name: string; here: Schemas['FilesHere'] }>()
const emit = defineEmits<{ leave: []; again: [] }>()
const { t } = useI18n()
</script>

<template>
  <p role="status">
    <b>{{ name }}</b> {{ t('file.here') }}
  </p>
  <ul class="plain">
    <li v-for="x in here.here" :key="x.track_id">
      <router-link v-if="x.recording_id" :to="{ name: 'trim-bench', params: { recording: x.recording_id } }">{{
        x.title
      }}</router-link>
      <router-link v-else :to="{ name: 'files' }">{{ x.file_name }}</router-link>
      <span class="soft small">
        <template v-if="x.deleted"> {{ t('file.here_deleted') }}</template>
        <template v-else-if="x.percent < 100">
          {{ t('file.here_sending', { name: x.by, percent: x.percent }) }}</template
        >
        <template v-else-if="!x.recording_id"> {{ t('file.here_waits') }}</template>
      </span>
    </li>
    <li v-if="here.elsewhere > 0" class="soft">{{ t('file.here_elsewhere') }}</li>
  </ul>
  <div class="bar-of-acts">
    <el-button @click="emit('leave')">{{ t('file.here_leave') }}</el-button>
    <el-button link @click="emit('again')">{{ t('file.here_send') }}</el-button>
  </div>
</template>
