<script setup lang="ts">
/** The rule as its sentence. Each bold part opens its choices under the sentence. */
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { locale } from '../../parts/reader'
import type { Schemas } from '../../api/client'
import { collegeNow } from '../../parts/clock'
import { dayAfter, dayOf, dayText, startOf } from '../../parts/days'

type Rule = Schemas['RuleText']
type Part = 'who' | 'may' | 'from' | 'until'
const rule = defineModel<Rule>({ required: true })
const props = defineProps<{ course: string; groups: string[]; zone: string }>()
const { t } = useI18n()
const open = ref<Part | ''>('')

const set = (change: Partial<Rule>) => (rule.value = { ...rule.value, ...change })
const today = () => dayOf(collegeNow(), props.zone)
const fromDay = computed(() => (rule.value.from_at ? dayOf(Date.parse(rule.value.from_at), props.zone) : ''))
// The last day on which it may be watched is the one before the end.
const untilDay = computed(() => (rule.value.until_at ? dayOf(Date.parse(rule.value.until_at) - 1, props.zone) : ''))
const list = new Intl.ListFormat(locale, { type: 'conjunction' })

const text = computed<Record<Part, string>>(() => {
  const r = rule.value
  return {
    who:
      r.audience === 'everyone'
        ? t('rule.everyone', { course: props.course })
        : r.groups.length > 0
          ? t('rule.groups_of', { groups: list.format(r.groups), course: props.course })
          : t('rule.no_group', { course: props.course }),
    may: r.download ? t('rule.watch_download') : t('rule.watch'),
    from: r.from === 'lecture' ? t('rule.from_lecture') : fromDay.value ? dayText(fromDay.value) : t('rule.some_day'),
    until:
      r.until === 'term'
        ? t('rule.until_term', { n: r.days_after_term }, r.days_after_term)
        : r.until === 'ever'
          ? t('rule.until_ever')
          : untilDay.value
            ? t('rule.until_day', { day: dayText(untilDay.value) })
            : t('rule.some_day'),
  }
})

function setFrom(kind: 'lecture' | 'date', day = fromDay.value || today()) {
  set(
    kind === 'lecture'
      ? { from: kind, from_at: undefined }
      : { from: kind, from_at: startOf(day, props.zone).toISOString() },
  )
}

function setUntil(kind: 'term' | 'date' | 'ever', day = untilDay.value || dayAfter(today(), 30)) {
  set(
    kind === 'date'
      ? { until: kind, until_at: startOf(dayAfter(day), props.zone).toISOString() }
      : { until: kind, until_at: undefined },
  )
}

function toggleGroup(g: string, on: boolean) {
  set({ audience: 'groups', groups: props.groups.filter((x) => (x === g ? on : rule.value.groups.includes(x))) })
}

const parts: Part[] = ['who', 'may', 'from', 'until']
</script>

<template>
  <div>
    <i18n-t keypath="rule.sentence" tag="p" class="sentence" scope="global">
      <template v-for="p in parts" :key="p" #[p]>
        <button type="button" :aria-expanded="open === p" aria-controls="choices" @click="open = open === p ? '' : p">
          {{ text[p] }}
        </button>
      </template>
    </i18n-t>
    <fieldset v-if="open" id="choices">
      <legend class="away">{{ t(`rule.choose_${open}`) }}</legend>
      <template v-if="open === 'who'">
        <label
          ><input
            type="radio"
            name="who"
            :checked="rule.audience === 'everyone'"
            @change="set({ audience: 'everyone', groups: [] })"
          />
          {{ t('rule.everyone', { course }) }}</label
        >
        <span v-if="groups.length > 0" class="soft">{{ t('rule.or_only') }}</span>
        <label v-for="g in groups" :key="g">
          <input
            type="checkbox"
            :checked="rule.audience === 'groups' && rule.groups.includes(g)"
            @change="toggleGroup(g, ($event.target as HTMLInputElement).checked)"
          />
          {{ t('rule.only_group', { group: g }) }}
        </label>
        <p v-if="groups.length === 0" class="soft small">{{ t('rule.groups_none') }}</p>
      </template>
      <template v-else-if="open === 'may'">
        <label
          ><input type="radio" name="may" :checked="!rule.download" @change="set({ download: false })" />
          {{ t('rule.watch') }}</label
        >
        <label
          ><input type="radio" name="may" :checked="rule.download" @change="set({ download: true })" />
          {{ t('rule.watch_download') }}</label
        >
      </template>
      <template v-else-if="open === 'from'">
        <label
          ><input type="radio" name="from" :checked="rule.from === 'lecture'" @change="setFrom('lecture')" />
          {{ t('rule.from_lecture') }}</label
        >
        <label
          ><input type="radio" name="from" :checked="rule.from === 'date'" @change="setFrom('date')" />
          {{ t('rule.a_day') }}</label
        >
        <el-date-picker
          v-if="rule.from === 'date'"
          :model-value="fromDay"
          value-format="YYYY-MM-DD"
          :clearable="false"
          :aria-label="t('rule.choose_from')"
          @update:model-value="(d: string) => setFrom('date', d)"
        />
      </template>
      <template v-else>
        <label>
          <input type="radio" name="until" :checked="rule.until === 'term'" @change="setUntil('term')" />
          <i18n-t keypath="rule.days_after" scope="global">
            <template #n>
              <input
                class="days"
                type="number"
                min="0"
                max="3650"
                :value="rule.days_after_term"
                :aria-label="t('rule.days')"
                @input="
                  set({
                    until: 'term',
                    until_at: undefined,
                    days_after_term: Math.min(
                      3650,
                      Math.max(0, Math.round(Number(($event.target as HTMLInputElement).value))),
                    ),
                  })
                "
              />
            </template>
          </i18n-t>
        </label>
        <label
          ><input type="radio" name="until" :checked="rule.until === 'date'" @change="setUntil('date')" />
          {{ t('rule.a_day') }}</label
        >
        <el-date-picker
          v-if="rule.until === 'date'"
          :model-value="untilDay"
          value-format="YYYY-MM-DD"
          :clearable="false"
          :aria-label="t('rule.choose_until')"
          @update:model-value="(d: string) => setUntil('date', d)"
        />
        <label
          ><input type="radio" name="until" :checked="rule.until === 'ever'" @change="setUntil('ever')" />
          {{ t('rule.until_ever') }}</label
        >
      </template>
    </fieldset>
  </div>
</template>

<style scoped>
.sentence {
  max-width: 880px;
  font: 22px/1.7 var(--serif);
}

.sentence button {
  display: inline;
  padding: 0;
  border: 0;
  background: none;
  color: var(--ink);
  font: 600 22px/1.4 var(--serif);
  text-align: start;
  text-decoration: underline 2px var(--kelp);
  text-underline-offset: 5px;
  cursor: pointer;
}

.sentence button[aria-expanded='true'] {
  background: var(--kelp-soft);
}

fieldset {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 22px;
  align-items: center;
  margin: 0;
  padding: 10px 16px;
  border: 1px solid var(--rule-strong);
  border-radius: 4px;
}

label {
  display: flex;
  align-items: center;
  gap: 8px;
  min-height: 28px;
}

input[type='radio'],
input[type='checkbox'] {
  width: 18px;
  height: 18px;
  accent-color: var(--kelp);
}

.days {
  width: 72px;
  padding: 3px 6px;
  border: 1px solid var(--edge);
  border-radius: 3px;
  background: var(--shell);
  color: var(--ink);
  font: inherit;
}
</style>
