<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { Button } from 'ant-design-vue'
import { computed, reactive, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { answer, api, type Schemas } from '@/api/client'
import { useContext } from '@/composables/useContext'
import { useFaults } from '@/composables/useFaults'
import { useNewRig } from '@/composables/useNewRig'
import { useRigs } from '@/composables/useRecords'

import Field from './Field.vue'
import FormFaults from './FormFaults.vue'
import HandFields, { emptyHand } from './HandFields.vue'
import SideSheet from './SideSheet.vue'

/** Another rig: from what is in one's hand, like one that is there with another lens, or from nothing. */
const { asking, make } = useNewRig()
const { data: rigs } = useRigs()
const { rig } = useContext()
const route = useRoute()
const router = useRouter()
const queries = useQueryClient()
const { busy, attempt } = useFaults()

const from = ref<'hand' | 'like' | 'nothing'>('hand')
const hand = reactive(emptyHand())
const mine = computed(() => (rigs.value?.items ?? []).map((one) => ({ value: one.id, label: one.name })))
const ways = computed(() => [
  { value: 'hand', label: 'my camera and lens' },
  ...(mine.value.length ? [{ value: 'like', label: 'one of my rigs, with another lens' }] : []),
  { value: 'nothing', label: 'an empty rig' },
])
const like = computed({
  get: () => hand.like ?? rig.value ?? mine.value[0]?.value ?? null,
  set: (value) => (hand.like = value),
})

const go = () =>
  attempt(async () => {
    if (from.value === 'nothing') await make()
    else {
      const { focal_mm, f_number } = hand
      const body = from.value === 'hand' ? { ...hand, like: null } : { focal_mm, f_number, like: like.value }
      const made = await answer(api.POST('/api/begin', { body: { hand: body } as Schemas['BeginIn'] }))
      await queries.invalidateQueries()
      await router.push({ name: 'bench', query: { ...route.query, rig: String(made.rig) } })
    }
    Object.assign(hand, emptyHand())
    asking.value = false
  })
</script>

<template>
  <SideSheet :open="asking" title="New rig" :width="520" modal @close="asking = false">
    <form class="new" @submit.prevent="go">
      <FormFaults />
      <Field v-model="from" path="from" label="Start from" kind="choice" :options="ways" />
      <template v-if="from !== 'nothing'">
        <Field v-if="from === 'like'" v-model="like" path="hand.like" label="Rig" kind="choice" :options="mine" />
        <HandFields v-model="hand" :lens-only="from === 'like'" />
        <p class="muted">
          Anything you don't know is filled with a typical value, marked as typical. You can change it later.
        </p>
      </template>
      <Button type="primary" html-type="submit" :loading="busy">Create rig</Button>
    </form>
  </SideSheet>
</template>

<style scoped>
.new {
  display: grid;
  gap: 8px;
  justify-items: start;
}
.new > :deep(*) {
  width: 100%;
}
.new > .ant-btn {
  width: auto;
}
</style>
