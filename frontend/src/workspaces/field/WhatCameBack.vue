<script setup lang="ts">
import type { Schemas } from '@/api/client'
import { useTonight } from '@/composables/useTonight'

/** What the phones told of the night: runs, contradictions, clocks, what stayed at home. */
defineProps<{ told: Schemas['FieldNightOut'] }>()
const { tonight } = useTonight()
function clock(moment: string | null | undefined): string {
  if (!moment) return '–'
  const zone = {
    timeZone: tonight.value?.time_zone ?? 'UTC',
    hour: '2-digit',
    minute: '2-digit',
    hour12: false,
  } as const
  return new Intl.DateTimeFormat('en-GB', zone).format(new Date(moment))
}
</script>

<template>
  <p v-if="!told.events" class="muted">Nothing yet. What is pressed on a phone comes in when it has a connection.</p>
  <template v-else>
    <p>
      <span class="number">{{ told.events }}</span> events from <span class="number">{{ told.devices.length }}</span>
      {{ told.devices.length === 1 ? 'device' : 'devices' }}, <span class="number">{{ told.checked }}</span> steps done.
    </p>
    <ul v-if="told.contradictions.length" class="apart" aria-label="Contradictions">
      <li v-for="one in told.contradictions" :key="one.subject + one.words">
        <b>{{ one.name }}</b> {{ one.words }}
      </li>
    </ul>
    <table v-if="told.runs.length" class="rows">
      <thead>
        <tr>
          <th>Run</th>
          <th>Began</th>
          <th>Ended</th>
          <th>Frames</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="one in told.runs" :key="one.run">
          <td>{{ one.name }}</td>
          <td class="number">{{ clock(one.begun) }}</td>
          <td class="number">{{ clock(one.ended) }}</td>
          <td class="number">{{ one.frames ?? '–' }}</td>
        </tr>
      </tbody>
    </table>
    <ul class="plain-list">
      <li v-for="one in told.devices.filter((device) => device.words)" :key="one.device">
        Device {{ one.device.slice(0, 6) }}: {{ one.words }}
      </li>
      <li v-if="told.forgotten.length">For the next packing list: {{ told.forgotten.join(', ') }}.</li>
    </ul>
    <h3>Taken down</h3>
    <ol class="plain-list notes">
      <li v-for="one in told.notes" :key="one.id">
        <span class="number muted">{{ clock(one.moment) }}</span> {{ one.words }}
      </li>
      <li v-if="!told.notes.length" class="muted">No words and nothing seen was noted.</li>
    </ol>
  </template>
</template>

<style scoped>
.apart {
  margin: 0;
  padding: 8px 12px 8px 26px;
  border: 1px solid var(--care);
  border-radius: 8px;
}
h3 {
  font-size: 14px;
}
.plain-list {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 4px;
}
.notes {
  max-height: 320px;
  overflow-y: auto;
}
</style>
