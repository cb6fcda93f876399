<script setup lang="ts">
import type { Schemas } from '@/api/client'
import { number } from '@/composables/figures'

/** What flats and bias frames tell of the camera, beside what stands in its table. */
defineProps<{
  transfer: NonNullable<Schemas['MeasurementOut']['transfer']>
  iso: number | null | undefined
  step: { read_noise_e: number; full_well_e: number } | null
}>()
</script>

<template>
  <h2>ISO {{ iso ?? 'not told' }}, from {{ transfer.pixels }} pixels</h2>
  <table class="rows">
    <thead>
      <tr>
        <th scope="col" />
        <th scope="col">Measured</th>
        <th scope="col">In the table now</th>
      </tr>
    </thead>
    <tbody>
      <tr>
        <th scope="row">Gain</th>
        <td class="number">{{ number(transfer.gain_e, 3) }} ± {{ number(transfer.gain_sigma, 3) }} e⁻ a count</td>
        <td />
      </tr>
      <tr>
        <th scope="row">Read noise</th>
        <td class="number">{{ number(transfer.read_noise_e, 2) }} ± {{ number(transfer.read_noise_sigma, 2) }} e⁻</td>
        <td class="number">{{ step ? `${number(step.read_noise_e, 2)} e⁻` : 'nothing' }}</td>
      </tr>
      <tr>
        <th scope="row">Full well, to where the file clips</th>
        <td class="number">{{ number(transfer.full_well_e, 0) }} ± {{ number(transfer.full_well_sigma, 0) }} e⁻</td>
        <td class="number">{{ step ? `${number(step.full_well_e, 0)} e⁻` : 'nothing' }}</td>
      </tr>
      <tr>
        <th scope="row">Black level</th>
        <td class="number">{{ number(transfer.black, 1) }} counts</td>
        <td />
      </tr>
    </tbody>
  </table>
</template>
