<script setup lang="ts">
import { Alert, Button, Checkbox } from 'ant-design-vue'
import { computed, ref } from 'vue'

import { dateWords } from '@/composables/dates'
import { isBusy, type CameraClock, type Folder, type FolderChange, type FolderThere } from '@/composables/useFrames'
import Choice from '@/parts/Choice.vue'
import FileButton from '@/parts/FileButton.vue'

import ClockForm from './ClockForm.vue'

/** Which folders of frames belong to this night, how far each is, and a new one. */
const props = defineProps<{
  folders: Folder[]
  there: FolderThere[]
  trouble: string
  bringing: string
  refused: string[]
}>()
const emit = defineEmits<{
  bring: [files: File[]]
  stopBringing: []
  read: [where: FolderThere, watched: boolean]
  change: [folder: Folder, state: FolderChange]
  setClock: [folder: Folder, clock: CameraClock]
  move: [folder: Folder, evening: string]
  remove: [folder: Folder]
}>()
const chosen = ref<string | null>(null)
const watched = ref(false)
const keyOf = (one: FolderThere) => `${one.machine}:${one.path}`
const options = computed(() =>
  props.there.map((one) => ({
    value: keyOf(one),
    label: `${one.machine ? `${one.machine}: ` : ''}${one.path || 'All of it'} · ${one.files} files`,
  })),
)
const where = computed(() => props.there.find((one) => keyOf(one) === chosen.value))
const total = (one: Folder) => one.counts.waiting + one.counts.running + one.counts.done + one.counts.failed
const left = (seconds: number) =>
  seconds < 90 ? `about ${Math.max(Math.round(seconds), 1)} s left` : `about ${Math.round(seconds / 60)} min left`
const clockOf = (one: Folder) => {
  const east = one.clock_offset_min
  const zone = east === null ? 'zone as the files say' : `UTC${east < 0 ? '−' : '+'}${Math.abs(east) / 60} h`
  const off = Math.abs(one.clock_fast_s)
  return off ? `${zone}, ${off} s ${one.clock_fast_s > 0 ? 'ahead' : 'behind'}` : zone
}
const others = (one: Folder) =>
  [
    [one.counts.darks, 'darks'],
    [one.counts.flats, 'flats'],
    [one.counts.bias, 'bias'],
  ]
    .filter(([many]) => many)
    .map(([many, what]) => `${many} ${what}`)
    .join(', ')
</script>

<template>
  <section class="panel bar" aria-label="Folders of frames">
    <form class="new" @submit.prevent="where && emit('read', where, watched)">
      <label class="unseen" for="frames-folder">Folder of frames</label>
      <Choice id="frames-folder" v-model="chosen" :options="options" placeholder="Choose a folder of frames" />
      <Checkbox v-model:checked="watched">Watch it while the night runs</Checkbox>
      <Button type="primary" html-type="submit" :disabled="!where">Read the folder</Button>
      <FileButton
        label="Frames from this device"
        words="Bring files"
        multiple
        :disabled="bringing !== ''"
        accept="image/*,.fit,.fits,.fts,.dng,.tif,.tiff"
        @files="(files) => emit('bring', files)" />
    </form>
    <p v-if="bringing" class="new" role="status">
      {{ bringing }} <Button size="small" @click="emit('stopBringing')">Stop</Button>
    </p>
    <p v-if="!there.length" class="muted">
      This server reads no folder yet: bring files from this device, or start it with WIDE_DUSK_PICTURE_FOLDER set to
      the folder that holds your frames.
    </p>
    <Alert v-if="refused.length" type="error" show-icon
      ><template #message
        ><p v-for="(one, place) in refused.slice(0, 10)" :key="place">{{ one }}</p>
        <p v-if="refused.length > 10">{{ refused.length - 10 }} more were refused.</p></template
      ></Alert
    >
    <Alert v-if="trouble" type="error" show-icon :message="trouble" />
    <ul v-if="folders.length" class="folders">
      <li v-for="one in folders" :key="one.id">
        <strong>{{ one.name }}</strong>
        <span v-if="one.machine" class="muted">on {{ one.machine }}</span>
        <span role="status">
          {{ one.counts.done }} of {{ total(one) }} measured<template v-if="others(one)">, {{ others(one) }}</template>
          <template v-if="one.state !== 'reading'">, {{ one.state }}</template>
          <template v-else-if="one.left_s !== null">, {{ left(one.left_s) }}</template>
          <template v-else-if="one.watched">, watched</template>
        </span>
        <progress
          v-if="isBusy(one) && one.counts.waiting + one.counts.running"
          :value="one.counts.done + one.counts.failed"
          :max="total(one)"
          :aria-label="`Measured of ${one.name}`" />
        <Button
          v-if="one.state === 'paused' || (one.state === 'reading' && one.counts.waiting + one.counts.running)"
          size="small"
          @click="emit('change', one, { state: one.state === 'paused' ? 'reading' : 'paused' })">
          {{ one.state === 'paused' ? 'Go on' : 'Pause' }}
        </Button>
        <Button
          v-if="one.state !== 'stopped' && one.counts.waiting + one.counts.running"
          size="small"
          title="What is measured stays; read the folder again for the rest"
          @click="emit('change', one, { state: 'stopped' })">
          Stop
        </Button>
        <Button v-if="one.watched" size="small" @click="emit('change', one, { watched: false })">Stop watching</Button>
        <Button v-else-if="!one.brought" size="small" @click="emit('change', one, { watched: true, state: 'reading' })"
          >Watch</Button
        >
        <Button size="small" @click="emit('remove', one)">Take it out</Button>
        <p v-if="one.silent && one.machine" class="wide care">
          “{{ one.machine }}” is not heard. Start ./wide-dusk worker there; until then its frames wait.
        </p>
        <p v-else-if="one.silent" class="wide care">
          Frames wait, and no worker is there to measure them. Start one with ./wide-dusk worker, or start Wide Dusk
          anew.
        </p>
        <details v-if="one.counts.lights" class="wide">
          <summary>Camera’s clock: {{ clockOf(one) }}</summary>
          <ClockForm :folder="one" @set="(clock) => emit('setClock', one, clock)" />
        </details>
        <p v-for="words in one.troubles" :key="words" class="wide care">{{ words }}</p>
        <p v-if="one.other_night" class="wide care">
          By the camera’s clock these frames were taken in the night of {{ dateWords(one.other_night) }}.
          <Button size="small" @click="emit('move', one, one.other_night)">Move them to that night</Button>
        </p>
        <details v-if="one.unread.length" class="wide">
          <summary>{{ one.counts.failed }} could not be measured</summary>
          <ul>
            <li v-for="file in one.unread" :key="file.name">{{ file.name }}: {{ file.why }}</li>
          </ul>
        </details>
      </li>
    </ul>
  </section>
</template>

<style scoped>
.bar {
  padding: 10px 12px;
  display: grid;
  gap: 8px;
}
.new,
.folders > li {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 12px;
  align-items: center;
}
.new > :nth-child(2) {
  min-width: min(320px, 100%);
}
.folders,
.folders ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
.folders > li {
  border-top: 1px solid var(--line);
  padding-top: 6px;
}
.wide {
  flex-basis: 100%;
  margin: 0;
  font-size: 13px;
}
.care {
  color: var(--care);
}
progress {
  accent-color: var(--accent);
  width: 120px;
}
</style>
