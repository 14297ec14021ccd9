<script setup lang="ts">
/** The private address of a feed: shown when asked for, copied, renewed. */
import { ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { feedAddress, type FeedOf } from '../../api/people'
import CopyLine from '../../parts/CopyLine.vue'
import FaultNote from '../../parts/FaultNote.vue'
import { useForm } from '../../parts/form'

const props = defineProps<{ of: FeedOf }>()
const { t } = useI18n()
const address = ref('')
const renewed = ref(false)
const { busy, problem, send } = useForm()

async function show(renew: boolean) {
  const got = await send(() => feedAddress(props.of, renew))
  if (!got) return
  address.value = got.address
  renewed.value = renew
}
</script>

<template>
  <div>
    <el-button v-if="!address" link :disabled="busy" @click="show(false)">
      {{ t('feed.show') }}
    </el-button>
    <template v-else>
      <CopyLine :label="t('feed.address')" :text="address" />
      <p class="soft small">
        {{ renewed ? t('feed.renewed') : t('feed.help') }}
        <el-button link :disabled="busy" @click="show(true)">{{ t('feed.renew') }}</el-button>
      </p>
    </template>
    <FaultNote v-if="problem" :error="problem" />
  </div>
</template>
