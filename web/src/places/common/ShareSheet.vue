<script setup lang="ts">
/** How a recording or a playlist is shown on another page, and how many can watch it there. */
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { useShare, type Shared } from '../../api/embed'
import { useMe } from '../../api/me'
import ChoiceList from '../../parts/ChoiceList.vue'
import CopyLine from '../../parts/CopyLine.vue'
import FaultNote from '../../parts/FaultNote.vue'
import PageSheet from '../../parts/PageSheet.vue'

const props = defineProps<{ of: Shared; title: string }>()
const emit = defineEmits<{ close: [] }>()
const { t } = useI18n()
const me = useMe()
const page = useShare(() => props.of)
const width = ref(0)
const sizes = computed(() =>
  (page.data.value?.codes ?? []).map((c) => ({
    value: c.width,
    text: c.width === 0 ? t('share.fluid') : `${c.width} × ${c.height}`,
  })),
)
const code = computed(() => page.data.value?.codes.find((c) => c.width === width.value)?.code ?? '')
</script>

<template>
  <PageSheet open wide :title="t('share.title', { title })" @close="emit('close')">
    <FaultNote v-if="page.error.value && !page.data.value" :error="page.error.value" again @again="page.refetch()" />
    <template v-if="page.data.value">
      <ul class="plain can">
        <li v-for="c in page.data.value.courses" :key="c.code">
          <b>{{ t(of.recording ? 'share.can' : 'share.can_any', { can: c.can, of: c.of, course: c.code }, c.of) }}</b>
        </li>
      </ul>
      <p class="soft">{{ t('share.only') }}</p>
      <h3>{{ t('share.link') }}</h3>
      <CopyLine :label="t('share.link')" :text="page.data.value.link" />
      <h3>{{ t('share.frame') }}</h3>
      <ChoiceList v-model="width" :label="t('share.size')" :options="sizes" />
      <CopyLine class="code" :label="t('share.code')" :text="code" />
      <p v-if="page.data.value.sites.length > 0" class="small">
        {{ t('share.sites_are', { sites: page.data.value.sites.join(', ') }) }}
      </p>
      <p v-else class="none" role="status">{{ t('share.no_sites') }}</p>
      <p v-if="me.data.value?.coordinator" class="small">
        <router-link :to="{ name: 'terms', hash: '#sites' }">{{ t('share.to_sites') }}</router-link>
      </p>
      <h3>{{ t('share.oembed_title') }}</h3>
      <p class="soft small">{{ t('share.oembed') }}</p>
      <CopyLine :label="t('share.oembed_title')" :text="page.data.value.oembed" />
    </template>
  </PageSheet>
</template>

<style scoped>
.can {
  margin: 6px 0;
}

h3 {
  margin: 18px 0 6px;
}

.code,
.none {
  margin-top: 8px;
}
</style>
