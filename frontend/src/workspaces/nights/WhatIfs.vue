<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'

import type { Schemas } from '@/api/client'
import { useFaults } from '@/composables/useFaults'
import { useWhatIfs } from '@/composables/usePlannings'
import Field from '@/parts/Field.vue'
import FormFaults from '@/parts/FormFaults.vue'
import WorkProgress from '@/parts/WorkProgress.vue'

import RunList from './RunList.vue'

/** What if the kept night goes another way: the best that is left then, worked out beforehand and kept with the night. */
const props = defineProps<{ where: Schemas['NightQuery'] | null; kept: boolean }>()
const emit = defineEmits<{ working: [of: Schemas['Verdict']] }>()
const work = useWhatIfs(
  computed(() => props.where),
  computed(() => props.kept),
)
const { found } = work
const { attempt } = useFaults()
const AS_USUAL: Required<Schemas['OtherwiseShape']> = { late_h: 1, cloud_until: '00:00', wind: 'fresh', home_h: 1 }
const otherwise = ref({ ...AS_USUAL })
watch(found, (now, before) => {
  if (now?.asked && !before?.asked) otherwise.value = { ...AS_USUAL, ...now.asked }
})
const WINDS = ['light', 'fresh', 'strong'].map((one) => ({ value: one, label: one }))
const going = computed(() => ['waiting', 'running'].includes(found.value?.work?.state ?? ''))
const begin = () => attempt(() => work.begin(otherwise.value))
const none = computed(() => found.value?.work?.state === 'done' && !found.value.what_ifs.length)
</script>

<template>
  <section class="panel ifs" aria-label="What if">
    <h2>What if it goes another way</h2>
    <p v-if="!kept" class="muted">Keep this plan first; what is best then is worked out for what was kept.</p>
    <template v-else>
      <div class="asked">
        <Field v-model="otherwise.late_h" path="late_h" label="Late by" unit="h" />
        <Field v-model="otherwise.cloud_until" path="cloud_until" kind="text" label="Cloud until" hint="local time" />
        <Field v-model="otherwise.wind" path="wind" kind="choice" label="Wind" :options="WINDS" />
        <Field v-model="otherwise.home_h" path="home_h" label="Home earlier by" unit="h" />
        <Button size="small" :disabled="going" @click="begin">{{ found?.work ? 'Recalculate' : 'Calculate' }}</Button>
      </div>
      <FormFaults />
      <p v-if="found?.outdated && !going" class="care">The plan was changed since; this is of the one before.</p>
      <WorkProgress v-if="found?.work" :result="found.work" @cancel="work.cancel()" @again="begin">
        <p v-if="none" class="muted">Nothing was planned, so nothing can go another way.</p>
        <ul>
          <li v-for="one in found.what_ifs" :key="one.name">
            <details>
              <summary>
                <b>{{ one.name }}:</b> {{ one.verdict.sentence }}
              </summary>
              <RunList :runs="one.runs" />
              <p class="muted">
                {{ one.verdict.advice }}
                <button
                  v-if="one.verdict.workings?.length"
                  type="button"
                  class="plain open"
                  @click="emit('working', one.verdict)">
                  Working
                </button>
              </p>
            </details>
          </li>
        </ul>
      </WorkProgress>
    </template>
  </section>
</template>

<style scoped src="../framing/folded.css"></style>
<style scoped>
.ifs {
  padding: 8px 12px;
  font-size: 13px;
}
h2 {
  font-size: 13px;
}
.asked {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(110px, 1fr));
  gap: 6px 10px;
  align-items: start;
  margin-bottom: 6px;
}
.asked > button {
  align-self: center;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
details :deep(ol) {
  padding-left: 18px;
}
.open {
  text-decoration: underline dotted;
  text-underline-offset: 3px;
}
.care {
  padding-left: 8px;
  border-left: 3px solid var(--care);
}
</style>
