<script setup lang="ts">
import { Alert } from 'ant-design-vue'
import { useRoute } from 'vue-router'

import { useContext } from '@/composables/useContext'
import { useExposure } from '@/composables/useExposure'
import WorkspacePage from '@/parts/WorkspacePage.vue'

import SettingBar from './SettingBar.vue'

/** How long, which ISO, how many? */
const route = useRoute()
const { context } = useContext()
const { refusal: trouble } = useExposure()
const TABS = [
  { name: 'exposure', label: 'Sub window' },
  { name: 'exposure-light', label: 'ISO, aperture, filter' },
  { name: 'exposure-many', label: 'How many' },
  { name: 'exposure-card', label: 'Card' },
  { name: 'exposure-test', label: 'Test picture' },
  { name: 'exposure-camera', label: 'My camera' },
  { name: 'exposure-lens', label: 'My lens' },
  { name: 'exposure-compare', label: 'Compare' },
] as const
</script>

<template>
  <WorkspacePage
    v-slot="{ refusal }"
    label="Exposure"
    :tabs="TABS"
    :lacking="!context"
    across
    :own-sheet="route.name === 'exposure-card'">
    <SettingBar />
    <Alert v-if="trouble && !refusal" type="error" show-icon :message="trouble.message" />
    <RouterView />
  </WorkspacePage>
</template>
