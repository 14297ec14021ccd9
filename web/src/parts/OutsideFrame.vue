<script setup lang="ts">
/** The frame of pages that are open to people who have not signed in. */
import LanguageChoice from './LanguageChoice.vue'
import LanternSign from './LanternSign.vue'
</script>

<template>
  <main class="door">
    <div class="page">
      <p class="mark"><LanternSign state="lit" mute :size="34" /> Late Lantern</p>
      <slot />
      <LanguageChoice class="languages" />
    </div>
  </main>
</template>

<style scoped>
.door {
  display: grid;
  min-height: 100vh;
  padding: 16px;
  place-items: center;
}

.page {
  width: min(440px, 100%);
  padding: 28px 32px 32px;
}

.languages {
  margin-top: 24px;
}

.mark {
  display: flex;
  align-items: center;
  gap: 10px;
  margin-bottom: 22px;
  font: 600 20px var(--serif);
}
</style>
