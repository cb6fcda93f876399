<script setup lang="ts">
import { Button, Spin } from 'ant-design-vue'
import { computed, ref } from 'vue'

import { dateWords } from '@/composables/dates'
import { number } from '@/composables/figures'
import { useContext } from '@/composables/useContext'
import { useExposure } from '@/composables/useExposure'
import { useScheduled } from '@/composables/useScheduled'
import { usePlaces, useRigs, useTargets } from '@/composables/useRecords'
import { lengthWords } from '@/instruments/lengths'
import Field from '@/parts/Field.vue'
import VerdictCard from '@/parts/VerdictCard.vue'
import WorkingDrawer from '@/parts/WorkingDrawer.vue'
import { asScheduled, scheduledLine } from '@/workspaces/mynights/runs'
import KeyCard from '@/workspaces/tonight/KeyCard.vue'

/** What to key in, for either kind of timer; what to shoot afterwards; and the ladder from a bright test down to the real frame. */
const { choices, choose, night, rig, spot, target } = useContext()
const { data, refusal } = useExposure()
const { data: rigs } = useRigs()
const { data: places } = usePlaces()
const { data: targets } = useTargets()
const shown = ref<string | null>(null)
const { scheduled } = useScheduled()
const verdict = computed(() => {
  const found = data.value?.verdicts.find((one) => one.topic === 'Card')
  return found ? asScheduled(found, scheduled.value) : null
})
const convention = computed(() => choices.value.convention ?? 'gap')
const allNight = computed(() => (convention.value === 'gap' ? data.value?.text_gap : data.value?.text_start) ?? '')
const text = computed(() =>
  scheduled.value.length
    ? `${scheduled.value.map(scheduledLine).join('\n')}\n\nThis target all night:\n${allNight.value}`
    : allNight.value,
)
const set = (part: object) => void choose({ ...choices.value, ...part })
const copied = ref('')
async function copy() {
  try {
    await navigator.clipboard.writeText(text.value)
    copied.value = 'Copied.'
  } catch {
    copied.value = 'This browser keeps the clipboard to itself; mark the lines below and copy them.'
  }
}
const print = () => window.print()
const names = computed(() => ({
  rig: rigs.value?.items.find((one) => one.id === rig.value)?.name ?? '',
  spot:
    places.value?.items
      .flatMap((place) => place.spots.map((one) => ({ id: one.id, name: `${place.name}, ${one.name}` })))
      .find((one) => one.id === spot.value)?.name ?? '',
  target: targets.value?.items.find((one) => one.id === target.value)?.name ?? '',
}))
</script>

<template>
  <Spin v-if="!data && !refusal" tip="Filling the card…"><div class="hold" /></Spin>
  <section v-if="data && verdict" class="keying">
    <VerdictCard :verdict="verdict" :night="night ?? ''" show-limits @working="(key) => (shown = key)">
      <KeyCard
        v-if="data.card.frames"
        :card="data.card"
        :scheduled="scheduled"
        :convention="convention"
        @convention="(value) => set({ convention: value })" />
    </VerdictCard>
    <div class="panel middle">
      <h2>Your timer and your body</h2>
      <div class="fields">
        <Field
          :model-value="choices.gap_s ?? null"
          path="gap_s"
          label="Gap"
          unit="s"
          placeholder="2"
          hint="5 lets the sensor rest"
          @update:model-value="(value: unknown) => set({ gap_s: value })" />
        <Field
          :model-value="choices.delay_s ?? null"
          path="delay_s"
          label="Delay"
          unit="s"
          placeholder="10"
          @update:model-value="(value: unknown) => set({ delay_s: value })" />
        <Field
          :model-value="choices.mirror_s ?? null"
          path="mirror_s"
          label="Mirror lock-up"
          unit="s"
          placeholder="0"
          hint="2 for the usual self-timer"
          @update:model-value="(value: unknown) => set({ mirror_s: value })" />
        <Field
          :model-value="choices.noise_reduction ?? 'off'"
          path="noise_reduction"
          label="Noise reduction in the body"
          kind="choice"
          :options="[
            { value: 'off', label: 'off' },
            { value: 'on', label: 'on, counted' },
          ]"
          @update:model-value="(value: unknown) => set({ noise_reduction: value })" />
        <Field
          :model-value="choices.card_gb ?? null"
          path="card_gb"
          label="Memory card"
          unit="GB"
          placeholder="64"
          @update:model-value="(value: unknown) => set({ card_gb: value })" />
        <Field
          :model-value="choices.dark_school ?? 'matched'"
          path="dark_school"
          label="Against hot pixels"
          kind="choice"
          :options="[
            { value: 'matched', label: 'darks' },
            { value: 'dither', label: 'dither, no darks' },
          ]"
          @update:model-value="(value: unknown) => set({ dark_school: value })" />
        <Field
          :model-value="choices.darks ?? null"
          path="darks"
          label="Darks"
          placeholder="20"
          @update:model-value="(value: unknown) => set({ darks: value })" />
        <Field
          :model-value="choices.flats ?? null"
          path="flats"
          label="Flats"
          placeholder="20"
          @update:model-value="(value: unknown) => set({ flats: value })" />
        <Field
          :model-value="choices.bias ?? null"
          path="bias"
          label="Bias"
          placeholder="20"
          @update:model-value="(value: unknown) => set({ bias: value })" />
      </div>
      <h2>Framing ladder</h2>
      <p class="muted">Find and frame with the first; each step down looks the same and is closer to the real frame.</p>
      <ol class="ladder">
        <li v-for="rung in data.ladder" :key="rung.iso" class="number">
          ISO {{ rung.iso }} × {{ lengthWords(rung.exposure_s) }}
        </li>
      </ol>
    </div>
    <div class="panel plain-text">
      <h2>As plain text</h2>
      <pre class="fixed" tabindex="0">{{ text }}</pre>
      <p class="acts">
        <Button @click="copy">Copy</Button><Button @click="print">Print</Button> <span role="status">{{ copied }}</span>
      </p>
    </div>
    <WorkingDrawer :verdict="shown === null ? null : verdict" :focus="shown ?? ''" @close="shown = null" />
  </section>
  <Teleport v-if="data" to="body">
    <article class="paper cardsheet">
      <h1>{{ names.target }}</h1>
      <p>Night of {{ dateWords(night, 'whole') }} · {{ names.spot }} · {{ names.rig }}</p>
      <pre>{{ text }}</pre>
      <p v-if="convention === 'gap'">
        For a timer that counts from start to start, key an interval of {{ number(data.card.interval_start_s, 0) }} s.
      </p>
      <p v-else>For a timer whose interval is the pause, key {{ number(data.card.interval_gap_s, 0) }} s.</p>
      <p>Framing: {{ data.ladder.map((one) => `ISO ${one.iso} × ${lengthWords(one.exposure_s)}`).join(' = ') }}</p>
      <p>The app advises; local rules decide.</p>
    </article>
  </Teleport>
</template>

<style scoped>
.keying {
  display: grid;
  grid-template-columns: 330px minmax(0, 1fr) minmax(0, 1fr);
  gap: 8px;
  align-items: start;
}
.middle,
.plain-text {
  padding: 8px 14px;
  display: grid;
  gap: 6px;
  font-size: 13px;
}
.fields {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 6px 12px;
}
.ladder {
  margin: 0;
  padding: 0;
  list-style: none;
  display: flex;
  flex-wrap: wrap;
  gap: 4px 6px;
}
.ladder li {
  border: 1px solid var(--line);
  border-radius: 6px;
  padding: 2px 8px;
}
.ladder li:last-child {
  border-color: var(--accent);
  font-weight: 600;
}
pre {
  margin: 0;
  font-size: 12.5px;
  white-space: pre-wrap;
}
.acts {
  display: flex;
  gap: 8px;
  align-items: center;
}
.hold {
  min-height: 300px;
}
@media (max-width: 1080px) {
  .keying {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>

<style>
.cardsheet {
  font-size: 13pt;
  line-height: 1.35;
  color: #000;
  background: #fff;
}
.cardsheet h1 {
  font-size: 20pt;
}
.cardsheet pre {
  font-size: 13pt;
  white-space: pre-wrap;
  font-family: 'Atkinson Hyperlegible Mono Variable', monospace;
  border: 1px solid #000;
  padding: 8pt;
  margin: 8pt 0;
}
</style>
