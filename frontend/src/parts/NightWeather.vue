<script setup lang="ts">
import { useTonight } from '@/composables/useTonight'

import WeatherNote from './WeatherNote.vue'

/** Who tells the weather that the figures of this page rest on. */
const { tonight } = useTonight()
</script>

<template>
  <WeatherNote v-if="tonight?.weather" :weather="tonight.weather" />
</template>
