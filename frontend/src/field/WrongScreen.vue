<script setup lang="ts">
import { computed, ref } from 'vue'

import SymptomDrawing from './SymptomDrawing.vue'
import type { Pack } from './store'
import { useField } from './useField'
import { useSteps } from './useSteps'

/** From what is seen to what to do, by three questions at most; looked up, not judged here. */
const props = defineProps<{ pack: Pack }>()
const emit = defineEmits<{ left: [] }>()
const field = useField()
const { underWay } = useSteps()
const symptom = ref('')
const said = ref<string[]>([])
const question = ref('')
const found = ref('')
const seen = computed(() => props.pack.knowledge.symptoms.filter((one) => !one.gear))
const gear = computed(() => props.pack.knowledge.symptoms.filter((one) => one.gear))
const asked = computed(() => props.pack.knowledge.questions.find((one) => one.key === question.value))
const cause = computed(() => props.pack.knowledge.causes.find((one) => one.key === found.value))
const trail = computed(() => underWay.value.map((run) => `${run.name}: ${run.still_trail_px.toFixed(0)} px`).join('; '))
const step = ref(0)

function begin(key: string) {
  symptom.value = key
  question.value = props.pack.knowledge.symptoms.find((one) => one.key === key)?.question ?? ''
}
function reply(one: { words: string; cause: string; question: string }) {
  said.value = [...said.value, one.words]
  step.value += 1
  found.value = one.cause
  question.value = one.question
}
function anew() {
  symptom.value = question.value = found.value = ''
  said.value = []
  step.value = 0
}
async function note() {
  await field.record('wrong', `wrong:${symptom.value}`, {
    symptom: symptom.value,
    cause: found.value,
    said: said.value.join('; '),
    run: underWay.value[0]?.key ?? null,
  })
  anew()
  emit('left')
}
</script>

<template>
  <section class="wrong" aria-label="Something is wrong">
    <template v-if="!symptom">
      <h1>What do you see?</h1>
      <div class="grid">
        <button v-for="one in seen" :key="one.key" type="button" @click="begin(one.key)">
          <SymptomDrawing :symptom="one" /><span>{{ one.words }}</span>
        </button>
      </div>
      <div class="side" role="group" aria-label="Trouble with">
        <button v-for="one in gear" :key="one.key" type="button" class="small" @click="begin(one.key)">
          {{ one.words }}
        </button>
      </div>
    </template>
    <template v-else-if="asked">
      <p class="small">Question {{ step + 1 }}</p>
      <h2>{{ asked.words }}</h2>
      <p v-if="asked.key === 'how long' && trail" class="small">A still camera draws in one sub: {{ trail }}.</p>
      <div class="middle" />
      <button v-for="one in asked.replies" :key="one.words" type="button" @click="reply(one)">{{ one.words }}</button>
      <button type="button" @click="anew">Back</button>
    </template>
    <template v-else-if="cause">
      <p class="small">Likely</p>
      <h2>{{ cause.name }}</h2>
      <div class="scrolls told" tabindex="0">
        <p>{{ cause.in_a_frame }} {{ cause.over_the_run }}</p>
        <p class="caution">{{ cause.now }}</p>
        <p>Next time: {{ cause.next_time }}</p>
        <p class="small">
          Worth noting: {{ cause.note }}
          {{ cause.follows ? 'Follows from how a tracker turns.' : 'Common practice, no source.' }}
        </p>
      </div>
      <button type="button" class="first" @click="note">Record it</button>
      <button type="button" @click="anew">Something else</button>
    </template>
  </section>
</template>

<style scoped>
.wrong {
  flex: 1;
  min-height: 0;
  display: flex;
  flex-direction: column;
  gap: 16px;
}
.side button {
  min-width: 0;
  padding: 6px 2px;
  line-height: 1.1;
}
.grid {
  flex: 1;
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 16px;
}
.grid button {
  justify-content: flex-start;
  text-align: left;
  gap: 10px;
  padding: 6px 8px;
  font-size: 17px;
  line-height: 1.15;
}
.middle {
  flex: 1;
}
.told {
  flex: 1;
  display: flex;
  flex-direction: column;
  gap: 12px;
}
</style>
