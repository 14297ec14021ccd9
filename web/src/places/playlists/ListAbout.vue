<script setup lang="ts">
/** What a playlist is called, what it is in order by, and where else it is shown. */
import { computed, defineAsyncComponent, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { listFiles, playlistFile, type ListText, type PlaylistPage } from '../../api/playlists'
import ChoiceList from '../../parts/ChoiceList.vue'
import PageSheet from '../../parts/PageSheet.vue'
import WrittenText from '../../parts/WrittenText.vue'

const props = defineProps<{ page: PlaylistPage }>()
const emit = defineEmits<{ change: [text: ListText]; away: []; hide: [] }>()
const ShareSheet = defineAsyncComponent(() => import('../common/ShareSheet.vue'))
const OpeningsPart = defineAsyncComponent(() => import('../common/openings/OpeningsPart.vue'))
const OwnFeed = defineAsyncComponent(() => import('../common/OwnFeed.vue'))
const { t } = useI18n()
const fed = ref(false)
const sharing = ref(false)
const linking = ref(false)
const list = computed(() => props.page.list)
const of = computed(() => ({ course: props.page.course.id, list: list.value.main ? undefined : list.value.id }))
const orders = computed(() =>
  (['hand', 'date', 'week'] as const).map((value) => ({ value, text: t(`playlist.by.${value}`) })),
)
const change = (part: Partial<ListText>) =>
  emit('change', { title: list.value.title, about: list.value.about, arranged: list.value.arranged, ...part })
const arranged = computed({ get: () => list.value.arranged, set: (by) => change({ arranged: by }) })
</script>

<template>
  <div class="about">
    <template v-if="list.mine">
      <template v-if="!list.main">
        <h2 class="away">{{ list.title }}</h2>
        <div class="name">
          <WrittenText
            quiet
            needed
            :text="list.title"
            :label="t('playlist.title')"
            :max="120"
            @write="(title) => change({ title })"
          />
        </div>
        <WrittenText
          quiet
          :text="list.about"
          :label="t('playlist.about')"
          :max="500"
          :placeholder="t('playlist.about')"
          @write="(about) => change({ about })"
        />
      </template>
    </template>
    <template v-else>
      <h2>{{ list.title }}</h2>
      <p v-if="list.about">{{ list.about }}</p>
      <p class="soft">
        {{ t('playlist.theirs', { course: list.code }) }}
        <el-button link @click="emit('hide')">{{ t('playlist.hide') }}</el-button>
      </p>
    </template>
    <div class="order">
      <template v-if="list.mine">
        <ChoiceList v-if="list.id" v-model="arranged" :label="t('playlist.order')" :options="orders" />
        <el-button v-if="!list.main" link @click="emit('away')">{{ t('playlist.take_away') }}</el-button>
      </template>
      <span v-if="page.entries.length > 0" class="files">
        {{ t('playlist.as_file') }}
        <a v-for="(name, kind) in listFiles" :key="kind" :href="playlistFile(of, kind)" download>{{ name }}</a>
        <el-button link @click="fed = true">{{ t('own_feed.link') }}</el-button>
        <el-button link @click="sharing = true">{{ t('share.open') }}</el-button>
        <el-button v-if="list.mine && list.id" link @click="linking = true">{{ t('opening.list_open') }}</el-button>
      </span>
    </div>
    <p v-if="list.mine && list.arranged === 'week'" class="soft small">{{ t('playlist.by_week_note') }}</p>
    <p v-if="page.shown_in.length > 0" class="shown">
      {{ t('playlist.shown_in') }}
      <template v-for="(c, n) in page.shown_in" :key="c.id"
        ><template v-if="n > 0">, </template
        ><router-link v-if="c.mine" :to="{ name: 'playlist', params: { course: c.id }, query: { list: list.id } }">{{
          c.code
        }}</router-link
        ><span v-else>{{ c.code }}</span></template
      >.
    </p>
    <ShareSheet
      v-if="sharing"
      :of="of"
      :title="list.title || `${page.course.code} ${page.course.title}`"
      @close="sharing = false"
    />
    <PageSheet v-if="linking && list.id" open wide :title="t('opening.list_title')" @close="linking = false">
      <OpeningsPart :course="page.course.id" :of="{ course: page.course.id, list: list.id }" />
    </PageSheet>
    <OwnFeed v-if="fed" :course="page.course" :list="list.id" @close="fed = false" />
  </div>
</template>

<style scoped>
.about {
  margin-bottom: 10px;
}

.name {
  font: 600 20px/1.3 var(--serif);
}

.files {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  align-items: baseline;
}

.order {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 24px;
  align-items: center;
  margin: 8px 0;
}
</style>
