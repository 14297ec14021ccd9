<script setup lang="ts">
/** How many were there in each lecture of a course, and what it calls late. */
import { useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import { setRegisterRules, useRegisters } from '../../api/register'
import { keys } from '../../api/queries'
import FaultNote from '../../parts/FaultNote.vue'
import FormText from '../../parts/FormText.vue'
import UndoLine from '../../parts/UndoLine.vue'
import { useForm } from '../../parts/form'
import { dateText } from '../../parts/time'

const props = defineProps<{ course: string }>()
const { t } = useI18n()
const client = useQueryClient()
const registers = useRegisters(() => props.course, true)
const it = computed(() => registers.data.value)
const form = useForm(() => it.value?.rules)
const { draft: rules, done } = form
const refresh = () => client.invalidateQueries({ queryKey: keys.registers(props.course) })
const keep = () => form.keep((d) => setRegisterRules(props.course, d), t('register.rules_kept'), refresh)
const columns = ['there', 'late', 'left_early', 'absent', 'excused'] as const
</script>

<template>
  <FaultNote v-if="registers.error.value && !it" :error="registers.error.value" again @again="registers.refetch()" />
  <div v-if="it" class="with-side">
    <section>
      <p v-if="it.sums.length === 0" class="soft">{{ t('register.no_lectures') }}</p>
      <template v-else>
        <el-table :data="it.sums" :aria-label="t('register.lectures')">
          <el-table-column :label="t('register.at.lecture')" min-width="220">
            <template #default="{ row }">
              <router-link :to="{ name: 'lecture', params: { lecture: row.lecture } }">{{
                row.topic || dateText(row.starts_at, it.zone)
              }}</router-link>
              <span v-if="row.topic" class="soft small beside">{{ dateText(row.starts_at, it.zone) }}</span>
              <b v-if="row.words > 0" class="small beside">{{ t('register.waits', { n: row.words }, row.words) }}</b>
            </template>
          </el-table-column>
          <el-table-column
            v-for="c in columns"
            :key="c"
            :prop="c"
            :label="t(`register.at.${c === 'left_early' ? 'early' : c}`)"
            align="right"
            width="104"
          />
        </el-table>
        <p class="small take">
          <a :href="`/api/courses/${course}/register/file`" download>{{ t('register.sheet_term') }}</a>
        </p>
      </template>
    </section>
    <aside>
      <h2>{{ t('register.rules') }}</h2>
      <form v-if="rules" novalidate @submit.prevent="keep">
        <FormText
          v-model="rules.late_min"
          type="number"
          size="number"
          :label="t('register.rules_late')"
          :fault="form.fields.value.late_min"
        />
        <FormText
          v-model="rules.early_min"
          type="number"
          size="number"
          :label="t('register.rules_early')"
          :fault="form.fields.value.early_min"
        />
        <FormText
          v-model="rules.least"
          type="number"
          size="number"
          :label="t('register.rules_least')"
          :fault="form.fields.value.least"
        />
        <FaultNote v-if="form.whole.value" :error="form.whole.value" />
        <el-button native-type="submit" type="primary" :disabled="form.busy.value || !form.changed.value">{{
          t('keep')
        }}</el-button>
      </form>
      <UndoLine v-if="done" v-bind="done" :key="done.key" />
    </aside>
  </div>
</template>

<style scoped>
.take {
  margin-top: 10px;
}
</style>
