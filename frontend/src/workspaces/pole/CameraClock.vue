<script setup lang="ts">
import { useIntervalFn } from '@vueuse/core'
import { Button } from 'ant-design-vue'
import { computed, ref } from 'vue'

import { momentWords } from '@/composables/dates'
import FileButton from '@/parts/FileButton.vue'
import SideSheet from '@/parts/SideSheet.vue'

import type { usePhotographs } from './usePhotographs'

/** The camera's clock: photograph this one, and see by how much the stamp is off. */
const props = defineProps<{ open: boolean; hand: ReturnType<typeof usePhotographs>; utcOffset: () => number }>()
const emit = defineEmits<{ close: []; ahead: [seconds: number] }>()
const seconds = ref(new Date())
useIntervalFn(() => (seconds.value = new Date()), 250)
const clockShown = computed(() => seconds.value.toISOString().slice(11, 19))
const clockPicture = ref<string>('')
const clockRead = ref('')
const clockWords = ref('')
async function clockTaken(files: File[]) {
  const before = props.hand.chosen.value.length
  await props.hand.bring(files.slice(0, 1))
  const one = props.hand.chosen.value.at(before)
  if (one) {
    clockPicture.value = one.taken
    props.hand.drop(props.hand.chosen.value.indexOf(one))
  }
}
function compareClocks() {
  const stamp =
    Date.parse(`${clockPicture.value.replace(' ', 'T')}Z`) / 1000 - (props.hand.offset.value ?? props.utcOffset()) * 60
  const found = /^(\d{1,2}):(\d{2}):(\d{2})$/.exec(clockRead.value.trim())
  if (!found || Number.isNaN(stamp)) {
    clockWords.value = 'Bring the picture of this clock, and type the time it shows like 19:04:30.'
    return
  }
  const real = Number(found[1]) * 3600 + Number(found[2]) * 60 + Number(found[3])
  const ahead = ((((stamp - real) % 86400) + 86400 + 43200) % 86400) - 43200
  emit('ahead', Math.round(ahead))
  clockWords.value =
    Math.abs(ahead) < 1
      ? 'The camera agrees.'
      : `The camera is ${Math.abs(Math.round(ahead))} s ${ahead > 0 ? 'ahead' : 'behind'}; this is taken off from now on.`
}
</script>

<template>
  <SideSheet :open="open" :width="460" title="Is the camera's clock right?" @close="emit('close')">
    <p>
      Photograph this clock, bring the picture, and type what it shows there. Both pictures of a pair being off alike by
      a minute hardly matters; past ten minutes the way to turn is wrong by a few degrees.
    </p>
    <p class="bigclock fixed" aria-label="Coordinated universal time">{{ clockShown }}</p>
    <p class="muted">Universal time of this device.</p>
    <p>
      <FileButton label="The picture of it" words="Choose the picture of it" accept="image/*" @files="clockTaken" />
    </p>
    <p v-if="clockPicture">
      Its stamp: <b class="number">{{ momentWords(clockPicture) }}</b>
    </p>
    <label for="clock-read">The clock in the picture shows</label>
    <input id="clock-read" v-model="clockRead" class="read number" placeholder="19:04:30" />
    <Button @click="compareClocks">Compare</Button>
    <p role="status">{{ clockWords }}</p>
  </SideSheet>
</template>

<style scoped>
.bigclock {
  font-size: 64px;
  text-align: center;
  margin: 10px 0;
}
.read {
  background: var(--panel);
  color: var(--text);
  border: 1px solid var(--line);
  border-radius: 6px;
  padding: 3px 8px;
  margin: 0 8px;
  width: 110px;
}
</style>
