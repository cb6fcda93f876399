<script setup lang="ts">
import { useField } from './useField'

const field = useField()
const day = (evening: string) =>
  new Intl.DateTimeFormat('en-GB', {
    weekday: 'short',
    day: 'numeric',
    month: 'short',
    year: 'numeric',
    timeZone: 'UTC',
  }).format(new Date(`${evening}T12:00:00Z`))
</script>

<template>
  <main class="list stack">
    <h1>Nights on this phone</h1>
    <p v-if="field.night.value && field.link.value === 'away'" role="status">
      This night is not on this phone yet, and the server cannot be reached. Connect once and open it again.
    </p>
    <p v-else-if="field.night.value && field.link.value === 'signed out'" role="status">
      This night is not on this phone yet, and nobody is signed in here.
    </p>
    <p v-else-if="field.told.value" role="status">{{ field.told.value }}</p>
    <p v-else-if="field.night.value" role="status">Taking the night along…</p>
    <p v-else-if="!field.kept.value.length">
      None yet. On the desk open Field, Take it along, and read the code there with this phone.
    </p>
    <a
      v-if="field.link.value === 'signed out'"
      class="press"
      :href="`/sign-in?then=${encodeURIComponent(`/field/#/${field.night.value ?? ''}`)}`">
      Sign in
    </a>
    <a v-for="one in field.kept.value" :key="one.pack.night" class="press" :href="`#/${one.pack.night}`">
      {{ day(one.pack.evening) }}, {{ one.pack.place }}
    </a>
  </main>
</template>

<style scoped>
.list {
  padding: 24px 20px;
}
</style>
