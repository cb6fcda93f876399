<script setup lang="ts">
import { ConfigProvider } from 'ant-design-vue'
import { computed, defineAsyncComponent, watch } from 'vue'
import { useRoute } from 'vue-router'

import KeySheet from './parts/KeySheet.vue'
import ReachNote from './parts/ReachNote.vue'
import UndoBar from './parts/UndoBar.vue'
import WorkRail from './parts/WorkRail.vue'
import { signedOut } from './api/client'
import { useSession } from './composables/useSession'
import { conflict } from './composables/useConflict'
import { useTheme } from './theme/useTheme'

const ConflictSheet = defineAsyncComponent(() => import('./parts/ConflictSheet.vue'))
/** A session that ran out leads to the sign-in page and back. */
const { signInAgain } = useSession()
watch(signedOut, () => {
  if (signedIn.value) void signInAgain()
})
const { library } = useTheme()
const route = useRoute()
const signedIn = computed(() => route.name !== 'sign-in' && route.name !== undefined)
/** What drops down from a field of a sheet belongs into the sheet: all else lies under it. */
const beside = (from?: HTMLElement) =>
  from?.closest('dialog')?.querySelector<HTMLElement>(':scope > .pops') ?? document.body
</script>

<template>
  <ConfigProvider :theme="library" :get-popup-container="beside">
    <ReachNote v-if="signedIn" />
    <div class="desk" :class="{ bare: !signedIn }">
      <WorkRail v-if="signedIn" class="screen" />
      <RouterView />
    </div>
    <UndoBar class="screen" />
    <ConflictSheet v-if="conflict" />
    <KeySheet v-if="signedIn" />
  </ConfigProvider>
</template>

<style scoped>
.desk {
  display: grid;
  grid-template-columns: 72px minmax(0, 1fr);
  min-height: 100%;
}
.desk.bare {
  grid-template-columns: minmax(0, 1fr);
}
@media (max-width: 820px) {
  .desk {
    grid-template-columns: minmax(0, 1fr);
  }
  .desk:not(.bare) {
    padding-bottom: calc(60px + env(safe-area-inset-bottom));
  }
}
@media print {
  .desk {
    display: block;
  }
}
</style>
