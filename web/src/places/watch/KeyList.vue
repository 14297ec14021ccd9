<script setup lang="ts">
/** Which keys do what while a lecture is watched. */
import { useI18n } from 'vue-i18n'

defineProps<{ keys: readonly (readonly [keys: string, what: string])[] }>()
const { t } = useI18n()
</script>

<template>
  <dl>
    <div v-for="[k, what] in keys" :key="what">
      <dt>
        <kbd v-for="one in k.split(' ')" :key="one">{{ one }}</kbd>
      </dt>
      <dd>{{ t(what) }}</dd>
    </div>
  </dl>
</template>

<style scoped>
dl {
  margin: 0;
}

div {
  display: grid;
  grid-template-columns: 110px 1fr;
  gap: 10px;
  align-items: center;
  min-height: 36px;
  border-bottom: 1px solid var(--rule);
}

dt {
  display: flex;
  gap: 6px;
}

dd {
  margin: 0;
}

kbd {
  min-width: 26px;
  padding: 1px 6px;
  border: 1px solid var(--edge);
  border-radius: 4px;
  font: 14px var(--mono);
  text-align: center;
}
</style>
