<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'

import { number } from '@/composables/figures'
import { wordOf, type JudgedRun, type Said } from '@/composables/useFrames'

import Choice from '@/parts/Choice.vue'

import { sorted, type SortKey } from './lanes'

/** Every frame with its figures and the word on it, twenty-five at a time. */
const props = defineProps<{ run: JudgedRun; selected: number; cause: string }>()
const emit = defineEmits<{ select: [place: number]; say: [place: number, said: Said] }>()

const PAGE = 25
const by = ref<SortKey>('time')
const page = ref(0)
const SORTS: { value: SortKey; label: string }[] = [
  { value: 'time', label: 'in order of time' },
  { value: 'worth', label: 'least worth first' },
  { value: 'elongation', label: 'longest stars first' },
  { value: 'width', label: 'widest stars first' },
  { value: 'clear', label: 'dimmest first' },
  { value: 'sky', label: 'brightest background first' },
  { value: 'word', label: 'culled first' },
]
const WORDS = { keep: 'keep', less: 'keep, less weight', cull: 'cull' } as const
const places = computed(() => sorted(props.run, by.value, props.cause))
const pages = computed(() => Math.max(Math.ceil(places.value.length / PAGE), 1))
const shown = computed(() => places.value.slice(page.value * PAGE, (page.value + 1) * PAGE))
watch(pages, () => (page.value = Math.min(page.value, pages.value - 1)))
watch([by, () => props.cause], () => (page.value = 0)) // what was asked for stands first
const of = (name: 'elongation' | 'width' | 'clear' | 'sky' | 'worth', place: number, decimals: number, times = 1) => {
  const value = props.run.columns[name][place]
  return value === null || value === undefined ? '–' : number(value * times, decimals)
}
const causeName = (key: string) => props.run.causes.find((one) => one.key === key)?.name ?? ''
</script>

<template>
  <section class="panel list" aria-label="All frames">
    <header>
      <h2>{{ places.length }} frames</h2>
      <label for="frames-sort" class="unseen">Order</label>
      <Choice id="frames-sort" v-model="by" :options="SORTS" class="sort" />
      <span v-if="pages > 1" class="pages">
        <Button size="small" :disabled="page === 0" @click="page -= 1">Before</Button>
        page {{ page + 1 }} of {{ pages }}
        <Button size="small" :disabled="page === pages - 1" @click="page += 1">Next</Button>
      </span>
    </header>
    <div class="scroll" tabindex="0" role="region" aria-label="Frames with their figures">
      <table>
        <thead>
          <tr>
            <th scope="col">Frame</th>
            <th scope="col">Word</th>
            <th scope="col">Elongation, ×</th>
            <th scope="col">Width, px</th>
            <th scope="col">Starlight, %</th>
            <th scope="col">Background, ×</th>
            <th scope="col">Brings, %</th>
            <th scope="col">Why</th>
          </tr>
        </thead>
        <tbody>
          <tr
            v-for="place in shown"
            :key="run.frames[place]!.id"
            :class="{ here: place === selected }"
            :aria-current="place === selected ? 'true' : undefined">
            <th scope="row">
              <button type="button" class="plain link" @click="emit('select', place)">
                {{ run.frames[place]!.name }}
              </button>
            </th>
            <td class="word" :class="wordOf(run.frames[place]!)">
              {{ WORDS[wordOf(run.frames[place]!)] }}<small v-if="run.frames[place]!.said"> (you)</small>
              <Button
                size="small"
                class="turn"
                :aria-label="`${wordOf(run.frames[place]!) === 'cull' ? 'Keep' : 'Cull'} ${run.frames[place]!.name}`"
                @click="emit('say', place, wordOf(run.frames[place]!) === 'cull' ? 'keep' : 'cull')">
                {{ wordOf(run.frames[place]!) === 'cull' ? 'Keep' : 'Cull' }}
              </Button>
            </td>
            <td class="number" data-label="Elongation, ×">{{ of('elongation', place, 2) }}</td>
            <td class="number" data-label="Width, px">{{ of('width', place, 2) }}</td>
            <td class="number" data-label="Starlight, %">{{ of('clear', place, 0, 100) }}</td>
            <td class="number" data-label="Background, ×">{{ of('sky', place, 2) }}</td>
            <td class="number" data-label="Brings, %">{{ of('worth', place, 0, 100) }}</td>
            <td class="why">
              <strong v-if="causeName(run.frames[place]!.cause) && run.frames[place]!.reasons.length"
                >{{ causeName(run.frames[place]!.cause) }}.
              </strong>
              {{ run.frames[place]!.reasons.join(' ') }}
            </td>
          </tr>
        </tbody>
      </table>
    </div>
  </section>
</template>

<style scoped>
.list {
  padding: 10px 12px;
  display: grid;
  gap: 8px;
  min-width: 0;
}
header {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 14px;
  align-items: center;
}
.sort {
  min-width: 220px;
}
.scroll {
  overflow-x: auto;
}
table {
  border-collapse: collapse;
  width: 100%;
  font-size: 13px;
}
th,
td {
  text-align: left;
  padding: 4px 8px;
  border-top: 1px solid var(--line);
  vertical-align: top;
}
th[scope='row'],
.word {
  white-space: nowrap;
}
.turn {
  margin-left: 8px;
}
td.number {
  text-align: right;
}
.why {
  width: 40%;
}
tr.here {
  background: var(--raised);
}
.word.keep {
  color: var(--go);
}
.word.less {
  color: var(--care);
}
.word.cull {
  color: var(--stop);
}
/* On a phone a frame is a block: its word, its figures in a row, and why below, so that nothing lies aside. */
@media (max-width: 600px) {
  thead {
    display: none;
  }
  tr {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 2px 12px;
    padding: 6px 0;
    border-top: 1px solid var(--line);
  }
  th,
  td {
    padding: 0;
    border: 0;
  }
  .word {
    flex: 1 0 50%;
    text-align: right;
  }
  td.number::before {
    content: attr(data-label) ' ';
    color: var(--muted);
    font-size: 12px;
  }
  .why {
    width: 100%;
  }
  .why:empty {
    display: none;
  }
}
</style>
