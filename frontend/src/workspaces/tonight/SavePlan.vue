<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { answer, api } from '@/api/client'
import type { Choices } from '@/composables/choices'
import { useContext, type Context } from '@/composables/useContext'
import { useFaults } from '@/composables/useFaults'
import { useKeepPlan } from '@/composables/useRecords'
import { say } from '@/composables/useUndo'
import Field from '@/parts/Field.vue'
import FormFaults from '@/parts/FormFaults.vue'
import SideSheet from '@/parts/SideSheet.vue'

const props = defineProps<{ open: boolean; context: Context; suggestion: string }>()
const emit = defineEmits<{ close: [] }>()
const route = useRoute()
const router = useRouter()
const { plan, choices } = useContext()
const { faults, busy, attempt } = useFaults()
const { keep } = useKeepPlan()
const name = ref('')
const version = ref<number | null>(null)

watch(
  () => props.open,
  async (open) => {
    if (!open) return
    faults.value = {}
    name.value = props.suggestion
    const id = plan.value
    if (id === null) return
    await attempt(async () => {
      const stored = await answer(api.GET('/api/plans/{record_id}', { params: { path: { record_id: id } } }))
      // Whoever was quicker than the server keeps what they typed.
      if (name.value === props.suggestion) name.value = stored.name
    })
  },
)

/** Known from when the plan was opened, so that what another tab saved since is not saved over unseen. */
watch(
  plan,
  async (id) => {
    version.value = null
    if (id === null) return
    const path = { record_id: id }
    const stored = await answer(api.GET('/api/plans/{record_id}', { params: { path } })).catch(() => null)
    if (plan.value === id) version.value = stored?.version ?? null
  },
  { immediate: true },
)

async function save(id: number | null) {
  const body = { ...props.context, name: name.value, choices: choices.value as Choices }
  const kept = await attempt(async () => {
    const stored = await keep(id, body, id === null ? null : version.value)
    version.value = stored.version
    await router.replace({ path: route.path, query: { ...route.query, plan: String(stored.id) } })
    say(`Saved “${stored.name}”. You find it under Plans.`)
  })
  if (kept) emit('close')
}
</script>

<template>
  <SideSheet :open="open" title="Save the plan" :width="440" middle @close="emit('close')">
    <form class="form" @submit.prevent="save(plan)">
      <FormFaults />
      <Field
        v-model="name"
        path="name"
        label="Name"
        kind="text"
        hint="It keeps rig, spot, night, target and how you work; the figures are recalculated each time." />
      <div class="acts">
        <Button type="primary" html-type="submit" :loading="busy">{{ plan ? 'Save over it' : 'Save' }}</Button>
        <Button v-if="plan" :loading="busy" @click="save(null)">Save as another</Button>
      </div>
    </form>
  </SideSheet>
</template>

<style scoped>
.form {
  display: flex;
  flex-direction: column;
  gap: 8px;
}
.acts {
  display: flex;
  gap: 8px;
}
</style>
