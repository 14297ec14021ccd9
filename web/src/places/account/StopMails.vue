<script setup lang="ts">
/** Where a mail leads whose reader wants no more of them: one press, without signing in. */
import { useI18n } from 'vue-i18n'
import OutsideFrame from '../../parts/OutsideFrame.vue'
import { nameTab } from '../../router'
import WishChoice from './WishChoice.vue'

defineProps<{ letter: string }>()
const { t } = useI18n()
nameTab(t('wish.title'))
</script>

<template>
  <OutsideFrame>
    <h1>{{ t('wish.title') }}</h1>
    <WishChoice v-slot="x" :letter="letter">
      <p>{{ t(x.often === 'never' ? 'wish.none' : 'wish.text') }}</p>
      <p v-if="x.often !== 'never'">
        <el-button type="primary" :disabled="x.busy" @click="x.stop()">{{ t('wish.stop') }}</el-button>
      </p>
      <p class="soft small">{{ t('wish.or') }}</p>
    </WishChoice>
  </OutsideFrame>
</template>
