<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, ref } from 'vue'

import type { Schemas } from '@/api/client'
import { number } from '@/composables/figures'
import type { Subject } from '@/composables/useFraming'
import Choice from '@/parts/Choice.vue'

/** What shall be in the picture, from what lies around it; the frame that holds it all is one press away. */
const props = defineProps<{
  wanted: Subject[]
  near: Schemas['EntryOut'][]
  keyOf: (one: Schemas['EntryOut']) => string
  composed: Schemas['ComposedOut'] | null
  busy: boolean
}>()
const emit = defineEmits<{
  want: [one: Omit<Subject, 'key'>]
  compose: [turn: Schemas['ComposeIn']['turn'], hold: Schemas['ComposeIn']['hold']]
}>()
const turn = ref<'any' | 'bracket'>('any')
const hold = ref<'any' | 'landscape' | 'portrait'>('any')
const others = computed(() =>
  props.near.filter((one) => !props.wanted.some((each) => each.key === props.keyOf(one))).slice(0, 14),
)
const asSubject = (one: Schemas['EntryOut']) => ({
  name: one.name,
  ra_deg: one.ra_deg,
  dec_deg: one.dec_deg,
  long_deg: one.extent_deg,
  short_deg: one.width_deg ?? null,
  angle_deg: one.angle_deg ?? 0,
})
const sized = (degrees: number | undefined) => `${number(degrees ?? 0, (degrees ?? 0) < 1 ? 2 : 1)}°`
</script>

<template>
  <section class="panel wanted" aria-label="In the picture">
    <h2>In the picture</h2>
    <ul>
      <li v-for="one in wanted" :key="one.key">
        <label><input type="checkbox" checked @change="emit('want', one)" /> {{ one.name }}</label>
        <span class="muted number">{{ sized(one.long_deg) }}</span>
      </li>
    </ul>
    <details v-if="others.length">
      <summary>Around it, the largest first</summary>
      <ul>
        <li v-for="one in others" :key="one.key">
          <label><input type="checkbox" @change="emit('want', asSubject(one))" /> {{ one.name }}</label>
          <span class="muted number">{{ one.kind }}, {{ sized(one.extent_deg) }}</span>
        </li>
      </ul>
    </details>
    <div class="how">
      <div>
        <label for="framing-turn">The camera turns</label>
        <Choice
          id="framing-turn"
          v-model="turn"
          :options="[
            { value: 'any', label: 'freely, in a ring or collar' },
            { value: 'bracket', label: 'not: a bare bracket, 0° or 90°' },
          ]" />
      </div>
      <div>
        <label for="framing-hold">Held</label>
        <Choice
          id="framing-hold"
          v-model="hold"
          :options="[
            { value: 'any', label: 'either way' },
            { value: 'landscape', label: 'landscape, north up' },
            { value: 'portrait', label: 'portrait, north up' },
          ]" />
      </div>
    </div>
    <Button type="primary" :disabled="!wanted.length" :loading="busy" @click="emit('compose', turn, hold)"
      >Compose it</Button
    >
    <p v-if="composed" class="sentence" role="status">{{ composed.sentence }}</p>
  </section>
</template>

<style scoped>
.wanted {
  padding: 8px 12px;
  font-size: 13px;
  display: grid;
  gap: 6px;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  display: flex;
  justify-content: space-between;
  gap: 8px;
  align-items: center;
  min-height: 24px;
}
.how {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 8px;
}
.sentence {
  font-weight: 600;
}
summary {
  min-height: 24px;
  cursor: pointer;
}
@media (max-width: 820px) {
  summary {
    min-height: 44px;
    display: flex;
    align-items: center;
  }
}
</style>
