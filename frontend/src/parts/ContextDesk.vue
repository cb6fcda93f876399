<script setup lang="ts">
import { Alert, Button } from 'ant-design-vue'
import { computed, defineAsyncComponent, reactive, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { Refusal } from '@/api/client'
import { fieldWord, type ChoiceName } from '@/composables/choices'
import { useContext } from '@/composables/useContext'
import { useNewRig } from '@/composables/useNewRig'
import { usePlaces, useRigs, useTargets } from '@/composables/useRecords'

import ContextBar from './ContextBar.vue'

/** Forms come when they are opened. */
const ChoicesDrawer = defineAsyncComponent(() => import('./ChoicesDrawer.vue'))
const PlaceEditor = defineAsyncComponent(() => import('@/editors/PlaceEditor.vue'))
const NewRig = defineAsyncComponent(() => import('./NewRig.vue'))
const TargetEditor = defineAsyncComponent(() => import('@/editors/TargetEditor.vue'))

/** The context bar with all that hangs on it: editors, the choices, and what the server refused of either. */
const props = defineProps<{ refusal: Refusal | null; settled: () => Promise<boolean>; focus?: ChoiceName | null }>()
const emit = defineEmits<{ retry: [] }>()
const how = defineModel<boolean>('how', { default: false })

const { context, choices, rig, spot, change, begin } = useContext()
const { data: rigs } = useRigs()
const { data: places } = usePlaces()
const { data: targets } = useTargets()
const { asking } = useNewRig()
const route = useRoute()
const router = useRouter()

const trouble = ref('')
const failed = (error: unknown) =>
  (trouble.value = error instanceof Refusal ? error.message : 'The page could not be opened.')
watch(
  context,
  (now) => {
    if (now === null) begin().catch(failed)
  },
  { immediate: true },
)

const editing = ref<{ kind: 'place' | 'target'; id: number | null } | null>(null)
/** Rigs are changed on the Bench; places and targets in a drawer beside whatever is open. */
function edit(kind: 'rig' | 'place' | 'target', id: number | null) {
  if (kind !== 'rig') editing.value = { kind, id }
  else if (id === null) asking.value = true
  else void router.push({ name: 'bench', query: { ...route.query, rig: String(id) } })
}
/** Once a form has come, it stays. */
const opened = reactive({ how: false, place: false, target: false, rig: false })
watch([how, editing, asking], () => {
  if (asking.value) opened.rig = true
  if (how.value) opened.how = true
  if (editing.value) opened[editing.value.kind] = true
})
defineExpose({ edit })

/** What is wrong with the rig in hand is told beside it. */
const told = computed(() => (props.refusal?.list ?? []).filter((fault) => !fault.field.startsWith('rig.')))
const nightFault = computed(() => props.refusal?.faults.night ?? '')
const choiceFaults = computed(() =>
  Object.fromEntries(
    Object.entries(props.refusal?.faults ?? {}).filter(
      ([field]) => !['rig', 'spot', 'target', 'night', ''].includes(field) && !field.startsWith('rig.'),
    ),
  ),
)
watch(choiceFaults, (faults) => {
  if (Object.keys(faults).length) how.value = true
})
</script>

<template>
  <ContextBar :night-fault="nightFault" :changed-choices="Object.keys(choices).length" @edit="edit" @how="how = true"
    ><slot
  /></ContextBar>
  <Alert v-if="trouble" type="error" show-icon :message="trouble" />
  <Alert v-if="told.length" type="error" show-icon class="refusal">
    <template #message>
      <p v-for="fault in told" :key="fault.field">
        <b v-if="fault.field">{{ fieldWord(fault.field) }}: </b>{{ fault.message }}
      </p>
    </template>
    <template #action
      ><Button v-if="refusal && (refusal.status === 0 || refusal.status >= 500)" size="small" @click="emit('retry')"
        >Try again</Button
      >
      <Button v-else-if="Object.keys(choiceFaults).length" size="small" @click="how = true"
        >Open “How”</Button
      ></template
    >
  </Alert>
  <ChoicesDrawer
    v-if="opened.how"
    :open="how"
    :rig="rigs?.items.find((one) => one.id === rig) ?? null"
    :refused="choiceFaults"
    :settled="settled"
    :focus="focus ?? null"
    @close="how = false" />
  <PlaceEditor
    v-if="opened.place"
    :open="editing?.kind === 'place'"
    :record="places?.items.find((one) => one.id === editing?.id) ?? null"
    @close="editing = null"
    @kept="
      (place) => {
        if (!place.spots.some((one) => one.id === spot) && place.spots[0]) change({ spot: place.spots[0].id })
      }
    " />
  <TargetEditor
    v-if="opened.target"
    :open="editing?.kind === 'target'"
    :record="targets?.items.find((one) => one.id === editing?.id) ?? null"
    @close="editing = null"
    @kept="(kept) => change({ target: kept.id })" />
  <NewRig v-if="opened.rig" />
</template>

<style scoped>
.refusal p {
  margin: 0;
}
</style>
