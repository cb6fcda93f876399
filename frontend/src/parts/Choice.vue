<script setup lang="ts">
import { computed, defineAsyncComponent } from 'vue'

/**
 * One of a list. A short list is the browser's own, which every thumb and every screen reader knows; a long one is searched by typing
 * a part of a name, and comes when it is needed.
 */
type Value = string | number | boolean | null
interface Option {
  value?: Value
  label: string
  options?: Option[]
}
const props = defineProps<{
  id: string
  options?: readonly Option[]
  placeholder?: string
  searchable?: boolean
  frameless?: boolean
  invalid?: boolean
}>()
// eslint-disable-next-line @typescript-eslint/no-explicit-any
const value = defineModel<any>()
const SearchChoice = defineAsyncComponent(() => import('./SearchChoice.vue'))
const MANY = 15

const flat = computed(() => (props.options ?? []).flatMap((one) => one.options ?? [one]))
const long = computed(() => flat.value.length > MANY)
const at = computed(() => flat.value.findIndex((one) => one.value === (value.value ?? null)))
/** Groups as they are, and whatever stands outside of one. */
const groups = computed(() => {
  let place = 0
  return (props.options ?? []).map((one) => ({
    label: one.options ? one.label : '',
    items: (one.options ?? [one]).map((item) => ({ label: item.label, place: place++ })),
  }))
})
function take(event: Event) {
  const picked = flat.value[Number((event.target as HTMLSelectElement).value)]
  if (picked) value.value = picked.value
}
</script>

<template>
  <SearchChoice
    v-if="long"
    :id="id"
    v-model="value"
    :options="options as never"
    :placeholder="placeholder"
    :frameless="frameless"
    :invalid="invalid" />
  <div v-else class="choice" :class="{ frameless, wrong: invalid, open: at < 0 }">
    <select :id="id" :value="at" :aria-invalid="invalid || undefined" @change="take">
      <option v-if="at < 0" value="-1" disabled>{{ placeholder || 'choose' }}</option>
      <template v-for="group in groups" :key="group.label + group.items[0]?.place">
        <optgroup v-if="group.label" :label="group.label">
          <option v-for="one in group.items" :key="one.place" :value="one.place">{{ one.label }}</option>
        </optgroup>
        <template v-else
          ><option v-for="one in group.items" :key="one.place" :value="one.place">{{ one.label }}</option></template
        >
      </template>
    </select>
    <svg viewBox="0 0 24 24" width="14" height="14" aria-hidden="true"><path d="M5 9l7 7 7-7" /></svg>
  </div>
</template>

<style scoped>
.choice {
  position: relative;
  min-width: 0;
}
select {
  appearance: none;
  box-sizing: border-box;
  width: 100%;
  min-height: 32px;
  padding: 3px 26px 3px 10px;
  border: 1px solid var(--line);
  border-radius: 6px;
  background: var(--panel);
  color: var(--text);
  font: inherit;
  font-size: 14px;
  text-overflow: ellipsis;
}
.frameless select {
  border-color: transparent;
  background: none;
  font-weight: 600;
}
.wrong select {
  border-color: var(--stop);
}
.open select {
  color: var(--muted);
  font-weight: 400;
}
option,
optgroup {
  background: var(--panel);
  color: var(--text);
  font-weight: 400;
}
svg {
  position: absolute;
  right: 8px;
  top: 50%;
  translate: 0 -50%;
  pointer-events: none;
  color: var(--muted);
}
path {
  fill: none;
  stroke: currentColor;
  stroke-width: 2.4;
  stroke-linecap: round;
  stroke-linejoin: round;
}
</style>
