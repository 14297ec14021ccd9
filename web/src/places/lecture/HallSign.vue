<script setup lang="ts">
/** Who sits in the hall says so with the code that is shown there. */
import { ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { signInHall } from '../../api/register'
import FaultNote from '../../parts/FaultNote.vue'
import { useForm } from '../../parts/form'

const props = defineProps<{ lecture: string }>()
const { t } = useI18n()
const code = ref('')
const done = ref(false)
const form = useForm()

async function send() {
  if (!(await form.act(() => signInHall(props.lecture, code.value)))) return
  done.value = true
  code.value = ''
}
</script>

<template>
  <section class="hall">
    <h2>{{ t('hall.here') }}</h2>
    <p v-if="done" role="status">{{ t('hall.done') }}</p>
    <form v-else class="bar-of-acts" @submit.prevent="code.trim() && send()">
      <el-input
        v-model="code"
        class="code"
        :maxlength="12"
        autocomplete="off"
        autocapitalize="characters"
        :placeholder="t('hall.type')"
        :aria-label="t('hall.type')"
      />
      <el-button native-type="submit" :disabled="!code.trim() || form.busy.value">{{ t('hall.send') }}</el-button>
    </form>
    <FaultNote v-if="form.problem.value" :error="form.problem.value" />
  </section>
</template>

<style scoped>
.hall {
  margin: 0 0 16px;
}

.code {
  flex: 1;
  max-width: 260px;
}
</style>
