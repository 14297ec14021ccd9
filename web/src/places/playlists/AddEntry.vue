<script setup lang="ts">
/** A heading, or a page elsewhere, that is added at the end of a playlist. */
import { ref } from 'vue'
import { useI18n } from 'vue-i18n'
import type { PlaylistChange } from '../../api/playlists'

const props = defineProps<{ make: (change: PlaylistChange) => Promise<unknown> }>()
const { t } = useI18n()
const heading = ref('')
const title = ref('')
const address = ref('')
const page = ref(false)

async function addHeading() {
  if (heading.value.trim() === '') return
  if (await props.make({ do: 'heading', text: { title: heading.value } })) heading.value = ''
}

async function addPage() {
  if (!(await props.make({ do: 'page', text: { title: title.value, address: address.value } }))) return
  title.value = address.value = ''
  page.value = false
}
</script>

<template>
  <form class="add" @submit.prevent="addHeading">
    <label class="away" for="heading">{{ t('playlist.heading') }}</label>
    <el-input id="heading" v-model="heading" maxlength="120" :placeholder="t('playlist.heading')" />
    <el-button native-type="submit">{{ t('playlist.add_heading') }}</el-button>
    <el-button v-if="!page" link @click="page = true">{{ t('playlist.add_page') }}</el-button>
  </form>
  <form v-if="page" class="add" novalidate @submit.prevent="addPage">
    <label class="away" for="page-title">{{ t('playlist.page_title') }}</label>
    <el-input id="page-title" v-model="title" maxlength="120" :placeholder="t('playlist.page_title')" />
    <label class="away" for="page-address">{{ t('playlist.address') }}</label>
    <el-input
      id="page-address"
      v-model="address"
      type="url"
      maxlength="2000"
      autocomplete="off"
      :placeholder="t('playlist.address_hint')"
    />
    <el-button native-type="submit" :disabled="title.trim() === '' || address.trim() === ''">{{
      t('playlist.add_page')
    }}</el-button>
  </form>
</template>

<style scoped>
.add {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  max-width: 680px;
  margin-top: 16px;
}

.add .el-input {
  flex: 1 1 200px;
}
</style>
