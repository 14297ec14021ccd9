<script setup lang="ts">
/** How one stands in the registers of a course, and the sentence with which one says that it is not right. */
import { useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { objectTo, useOwnRegister } from '../../api/register'
import { keys } from '../../api/queries'
import FaultNote from '../../parts/FaultNote.vue'
import { useForm } from '../../parts/form'
import { dateText } from '../../parts/time'
import StandsSign from '../common/register/StandsSign.vue'

const props = defineProps<{ course: string }>()
const { t } = useI18n()
const client = useQueryClient()
const own = useOwnRegister(() => props.course, true)
const it = computed(() => own.data.value)
const there = computed(() => it.value?.lines.filter((l) => l.there).length ?? 0)
/** Of how many something is known. */
const all = computed(() => it.value?.lines.filter((l) => l.state !== '').length ?? 0)
const open = ref('')
const text = ref('')
const form = useForm()

async function say(lecture: string, what: string) {
  if (!(await form.act(() => objectTo(lecture, what)))) return
  open.value = text.value = ''
  await client.invalidateQueries({ queryKey: keys.registers(props.course) })
}
function begin(lecture: string) {
  open.value = open.value === lecture ? '' : lecture
  text.value = ''
}
</script>

<template>
  <FaultNote v-if="own.error.value && !it" :error="own.error.value" again @again="own.refetch()" />
  <section v-if="it" class="own">
    <h2>{{ t('register.own') }}</h2>
    <p v-if="it.lines.length === 0" class="soft">{{ t('register.no_lectures') }}</p>
    <p v-else>{{ t('register.own_sum', { there, all }) }}</p>
    <ul class="plain">
      <li v-for="l in it.lines" :key="l.lecture">
        <div class="row">
          <router-link :to="{ name: 'lecture', params: { lecture: l.lecture } }">{{
            l.topic || dateText(l.starts_at, it.zone)
          }}</router-link>
          <span v-if="l.topic" class="soft small">{{ dateText(l.starts_at, it.zone) }}</span>
          <StandsSign :stands="l" />
          <span v-if="l.by_hand" class="soft small"
            >{{ t('register.by_hand') }}<template v-if="l.reason">: {{ l.reason }}</template></span
          >
          <el-button v-if="!l.word" link class="push" :aria-expanded="open === l.lecture" @click="begin(l.lecture)">{{
            t('register.object')
          }}</el-button>
        </div>
        <p v-if="l.word" class="small">
          {{ t('register.object_said', { text: l.word.text }) }}
          <span v-if="l.word.settled" class="soft">{{ t('register.object_settled') }}</span>
          <el-button link @click="say(l.lecture, '')">{{ t('register.object_back') }}</el-button>
        </p>
        <form v-if="open === l.lecture" @submit.prevent="text.trim() && say(l.lecture, text)">
          <p class="small">{{ t('register.object_help') }}</p>
          <div class="bar-of-acts">
            <el-input v-model="text" :maxlength="400" :aria-label="t('register.object_text')" />
            <el-button native-type="submit" type="primary" :disabled="!text.trim() || form.busy.value">{{
              t('register.object_send')
            }}</el-button>
          </div>
        </form>
      </li>
    </ul>
    <FaultNote v-if="form.problem.value" :error="form.problem.value" />
  </section>
</template>

<style scoped>
.own {
  max-width: 760px;
}

li {
  padding: 7px 0;
  border-top: 1px solid var(--rule);
}

.row {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 14px;
  align-items: baseline;
}

li p {
  margin: 2px 0;
}

.el-input {
  flex: 1;
}
</style>
