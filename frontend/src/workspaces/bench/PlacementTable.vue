<script setup lang="ts">
import { Button, Tooltip } from 'ant-design-vue'
import { useMediaQuery } from '@vueuse/core'
import { computed } from 'vue'

import type { Faults } from '@/api/client'
import type { Piece, PlacedIn } from '@/composables/useBench'
import { useHabits, useParts, type Rig, type RigIn } from '@/composables/useRecords'
import LineInput from '@/parts/LineInput.vue'

/** The same facts as the drawing, as a table: what sits where, and what feeds it. */
const props = defineProps<{ record: Rig; draft: RigIn; pieces: Piece[]; faults: Faults; selected: string | null }>()
const emit = defineEmits<{
  place: [part: number, values: Partial<PlacedIn>, said: string]
  change: [next: RigIn, said: string]
  select: [name: string]
}>()
const { data: parts } = useParts()
const { data: habits } = useHabits()
const unit = computed(() => habits.value?.length_unit ?? 'mm')

const rows = computed(() =>
  props.record.placed.map((one, place) => ({
    ...one,
    place,
    at: props.draft.placed?.[place],
    piece: props.pieces.find((piece) => piece.name === one.name),
    others: (parts.value?.items ?? []).filter(
      (part) => part.kind === one.kind && !props.record.placed.some((other) => other.part === part.id),
    ),
  })),
)
const supplies = computed(() => props.record.placed.filter((one) => one.kind === 'battery' || one.kind === 'hub'))
/** What was typed, while it is refused; else the server's figure in the person's unit. */
const shown = (value: PlacedIn['arm_mm'], text: string | undefined) =>
  typeof value === 'string' ? value : (text ?? '')
const feedable = (kind: string) => supplies.value.filter((one) => (kind === 'hub' ? one.kind === 'battery' : true))

function swap(old: number, chosen: string, name: string) {
  const part = Number(chosen)
  if (!part || part === old) return
  emit(
    'change',
    {
      ...props.draft,
      placed: props.draft.placed?.map((one) => ({
        ...one,
        part: one.part === old ? part : one.part,
        fed_by: one.fed_by === old ? part : one.fed_by,
      })),
    },
    `Swapped ${name}.`,
  )
}
function takeOff(part: number, name: string) {
  emit(
    'change',
    {
      ...props.draft,
      placed: props.draft.placed
        ?.filter((one) => one.part !== part)
        .map((one) => ({ ...one, fed_by: one.fed_by === part ? null : one.fed_by })),
    },
    `Took off ${name}.`,
  )
}

/** On a phone the moments are left to the drawing above. */
const narrow = useMediaQuery('(max-width: 640px)')
</script>

<template>
  <div class="panel frame" tabindex="0" role="group" aria-label="Parts of this rig">
    <table>
      <thead>
        <tr>
          <th scope="col">Part</th>
          <th scope="col">Arm, {{ unit }}</th>
          <th scope="col">Along, {{ unit }}</th>
          <th scope="col">Moment</th>
          <th scope="col">Fed by</th>
          <th scope="col"><span class="unseen">Take off</span></th>
        </tr>
      </thead>
      <tbody>
        <tr
          v-for="row in rows"
          :key="row.part"
          :class="{ chosen: row.name === selected }"
          @focusin="emit('select', row.name)">
          <th scope="row">
            <select
              :value="row.part"
              :aria-label="`${row.kind}: ${row.name}; swap for another`"
              @change="swap(row.part, ($event.target as HTMLSelectElement).value, row.name)">
              <option :value="row.part">{{ row.name }}</option>
              <option v-for="other in row.others" :key="other.id" :value="other.id">{{ other.name }}</option>
            </select>
            <Tooltip v-if="row.shared_with.length" :title="`Also in ${row.shared_with.join(', ')}`"
              ><span class="shared" tabindex="0">shared</span></Tooltip
            >
          </th>
          <template v-if="row.carried && row.kind !== 'tracker'">
            <td>
              <LineInput
                bare
                :label="`Arm of ${row.name}, negative on the weight side`"
                :value="shown(row.at?.arm_mm, row.piece?.arm_text)"
                :fault="faults[`placed.${row.place}.arm_mm`]"
                @take="(text) => emit('place', row.part, { arm_mm: text }, `Moved ${row.name}.`)" />
            </td>
            <td>
              <LineInput
                bare
                :label="`${row.name} along, towards the front`"
                :value="shown(row.at?.along_mm, row.piece?.along_text)"
                :fault="faults[`placed.${row.place}.along_mm`]"
                @take="(text) => emit('place', row.part, { along_mm: text }, `Moved ${row.name}.`)" />
            </td>
            <td class="number moment">
              {{ row.piece ? `${row.piece.arm_mm < 0 ? '−' : ''}${row.piece.moment}` : '' }}
            </td>
          </template>
          <td v-else :colspan="narrow ? 2 : 3" class="muted ground">{{ row.kind }}, not on the arm</td>
          <td>
            <select
              v-if="row.needs_current || row.kind === 'hub'"
              :value="row.fed_by ?? ''"
              :aria-label="`What feeds ${row.name}`"
              :class="{ lacking: !row.fed_by }"
              @change="
                emit(
                  'place',
                  row.part,
                  { fed_by: Number(($event.target as HTMLSelectElement).value) || null },
                  `Changed what feeds ${row.name}.`,
                )
              ">
              <option value="">nothing</option>
              <option
                v-for="one in feedable(row.kind).filter((supply) => supply.part !== row.part)"
                :key="one.part"
                :value="one.part">
                {{ one.name }}
              </option>
            </select>
          </td>
          <td>
            <Button size="small" type="text" :aria-label="`Take ${row.name} off`" @click="takeOff(row.part, row.name)"
              >×</Button
            >
          </td>
        </tr>
      </tbody>
    </table>
    <p v-if="!rows.length" class="muted empty">Nothing yet. Begin with camera, lens and tracker.</p>
  </div>
</template>

<style scoped>
.frame {
  padding: 4px 8px;
  overflow-x: auto;
}
table {
  width: 100%;
  border-collapse: collapse;
  font-size: 13px;
}
thead th {
  text-align: left;
  white-space: nowrap;
  font-weight: 400;
  font-size: 12px;
  color: var(--muted);
  padding: 2px 4px;
}
tbody th {
  font-weight: 400;
  text-align: left;
}
tbody tr {
  border-top: 1px solid var(--line);
}
tr.chosen {
  background: var(--raised);
}
td,
tbody th {
  padding: 2px 4px;
  vertical-align: middle;
}
td:nth-of-type(1),
td:nth-of-type(2) {
  width: 66px;
}
.moment {
  white-space: nowrap;
  text-align: right;
}
.ground {
  font-size: 12px;
}
select {
  max-width: 178px;
  background: transparent;
  color: var(--text);
  border: 1px solid transparent;
  border-radius: 5px;
  font: inherit;
  padding: 1px 2px;
}
select:hover,
select:focus {
  border-color: var(--line);
  background: var(--panel);
}
option {
  background: var(--panel);
  color: var(--text);
}
.lacking {
  color: var(--stop);
  border-color: var(--stop);
}
.shared {
  font-size: 11.5px;
  color: var(--care);
  border: 1px solid currentColor;
  border-radius: 8px;
  padding: 0 6px;
  margin-left: 4px;
}
@media (max-width: 640px) {
  .moment,
  thead th:nth-child(4) {
    display: none;
  }
  select {
    max-width: 128px;
  }
}
.empty {
  padding: 6px 4px;
}
</style>
