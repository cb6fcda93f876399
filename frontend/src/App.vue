<script setup lang="ts">
import { ConfigProvider } from 'ant-design-vue'
import { computed } from 'vue'
import { useRoute } from 'vue-router'

import KeySheet from './parts/KeySheet.vue'
import UndoBar from './parts/UndoBar.vue'
import WorkRail from './parts/WorkRail.vue'
import { useTheme } from './theme/useTheme'

const { library } = useTheme()
const route = useRoute()
const signedIn = computed(() => route.name !== 'sign-in' && route.name !== undefined)
</script>

<template>
  <ConfigProvider :theme="library">
    <div class="desk" :class="{ bare: !signedIn }">
      <WorkRail v-if="signedIn" class="screen" />
      <RouterView />
    </div>
    <UndoBar class="screen" />
    <KeySheet v-if="signedIn" />
  </ConfigProvider>
</template>

<style scoped>
.desk { display: grid; grid-template-columns: 72px minmax(0, 1fr); min-height: 100%; }
.desk.bare { grid-template-columns: minmax(0, 1fr); }
@media print { .desk { display: block; } }
</style>
