<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { Button, Input } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'

import { answer, api } from '@/api/client'
import type { Part, Rig, RigIn } from '@/composables/useRecords'
import PartEditor from '@/editors/PartEditor.vue'
import SideSheet from '@/parts/SideSheet.vue'

/** Out of the inventory onto the rig, or a new part altogether. */
const props = defineProps<{ open: boolean; record: Rig; draft: RigIn }>()
const emit = defineEmits<{ close: []; change: [next: RigIn, said: string] }>()
const words = ref('')
const making = ref(false)
watch(
  () => props.open,
  (open) => {
    if (open) words.value = ''
  },
)
const { data } = useQuery({
  queryKey: ['parts', 'add', words],
  queryFn: () => answer(api.GET('/api/parts', { params: { query: { words: words.value, limit: 100 } } })),
  placeholderData: keepPreviousData,
})
const groups = computed(() => {
  const found = new Map<string, Part[]>()
  for (const part of data.value?.items ?? []) {
    if (props.record.placed.some((one) => one.part === part.id)) continue
    found.set(part.kind, [...(found.get(part.kind) ?? []), part])
  }
  return [...found]
})
const add = (part: Part) =>
  emit('change', { ...props.draft, placed: [...(props.draft.placed ?? []), { part: part.id }] }, `Added ${part.name}.`)
</script>

<template>
  <SideSheet :open="open" :width="460" title="Add a part" @close="emit('close')">
    <div class="find">
      <Input v-model:value="words" placeholder="Find in the inventory" aria-label="Find in the inventory" allow-clear />
      <Button type="primary" @click="making = true">New part</Button>
    </div>
    <section v-for="[kind, parts] in groups" :key="kind">
      <h3>{{ kind }}</h3>
      <ul>
        <li v-for="part in parts" :key="part.id">
          <span
            >{{ part.name }}
            <span class="muted"
              >{{ part.mass }}<template v-if="part.used_by.length">, in {{ part.used_by.join(', ') }}</template></span
            ></span
          >
          <Button size="small" :aria-label="`Add ${part.name}`" @click="add(part)">Add</Button>
        </li>
      </ul>
    </section>
    <p v-if="!groups.length" class="muted">
      {{ words ? 'No part of that name is left to add.' : 'Every part is on this rig already; make a new one.' }}
    </p>
    <PartEditor :open="making" :record="null" begin="camera" @close="making = false" @kept="add" />
  </SideSheet>
</template>

<style scoped>
.find {
  display: flex;
  gap: 8px;
  margin-bottom: 10px;
}
h3 {
  font-size: 12.5px;
  color: var(--accent);
  margin-top: 10px;
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
  padding: 4px 0;
  border-bottom: 1px solid var(--line);
  font-size: 13.5px;
}
</style>
