<script setup lang="ts">
/** A heading, a page elsewhere or files, added at the end of a playlist. */
import { onScopeDispose, ref, shallowRef } from 'vue'
import { useI18n } from 'vue-i18n'
import { handoutKinds } from '../../api/handouts'
import type { PlaylistChange } from '../../api/playlists'
import { useChoosing } from '../../parts/choosing'

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

/** The file that is on its way, and those that follow. */
const sending = shallowRef<{ name: string; share: number; more: number }>()
let way: AbortController | undefined
const choose = useChoosing(() => handoutKinds, true, addFiles)
async function addFiles(files: File[]) {
  if (sending.value) return
  const stop = (way = new AbortController())
  for (const [n, file] of files.entries()) {
    const told = (share: number) => (sending.value = { name: file.name, share, more: files.length - n - 1 })
    told(0)
    if (!(await props.make({ do: 'file', sent: { file, told, stop: stop.signal } }))) break
  }
  sending.value = undefined
}
onScopeDispose(() => way?.abort())
</script>

<template>
  <form class="add" @submit.prevent="addHeading">
    <label class="away" for="heading">{{ t('playlist.heading') }}</label>
    <el-input id="heading" v-model="heading" maxlength="120" :placeholder="t('playlist.heading')" />
    <el-button native-type="submit">{{ t('playlist.add_heading') }}</el-button>
    <el-button v-if="!page" link @click="page = true">{{ t('playlist.add_page') }}</el-button>
    <el-button v-if="!sending" link @click="choose">{{ t('playlist.add_file') }}</el-button>
  </form>
  <div v-if="sending" class="add">
    <span role="status">{{
      sending.more > 0
        ? t('playlist.sending_more', { name: sending.name, n: sending.more }, sending.more)
        : t('playlist.sending', { name: sending.name })
    }}</span>
    <el-progress
      :percentage="Math.floor(sending.share * 100)"
      :aria-label="t('file.progress', { name: sending.name })"
    />
    <el-button link @click="way?.abort()">{{ t('file.stop') }}</el-button>
  </div>
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

.add .el-input,
.add .el-progress {
  flex: 1 1 200px;
}
</style>
