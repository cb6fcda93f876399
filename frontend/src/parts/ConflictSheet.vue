<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed } from 'vue'

import { conflict, differences } from '@/composables/useConflict'

import SideSheet from './SideSheet.vue'

/** Both versions of a record that was changed in two places; the choice is the person's. */
const rows = computed(() => (conflict.value ? differences(conflict.value.mine, conflict.value.theirs) : []))
const MOST = 14
</script>

<template>
  <SideSheet
    :open="conflict !== null"
    title="Changed elsewhere meanwhile"
    :width="560"
    middle
    modal
    @close="conflict?.decide('back')">
    <p>Since you opened it, this was saved on another tab or device. Which shall stand?</p>
    <table v-if="rows.length" class="rows">
      <thead>
        <tr>
          <th scope="col"><span class="unseen">Field</span></th>
          <th scope="col">Yours</th>
          <th scope="col">There now</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in rows.slice(0, MOST)" :key="row.name">
          <th scope="row">{{ row.name }}</th>
          <td>{{ row.mine }}</td>
          <td>{{ row.theirs }}</td>
        </tr>
      </tbody>
    </table>
    <p v-else class="muted">Both say the same by now.</p>
    <p v-if="rows.length > MOST" class="muted">And {{ rows.length - MOST }} more.</p>
    <template #footer>
      <Button type="primary" @click="conflict?.decide('mine')">Save mine over it</Button>
      <Button @click="conflict?.decide('theirs')">Keep what is there</Button>
      <Button @click="conflict?.decide('back')">Back to the form</Button>
    </template>
  </SideSheet>
</template>

<style scoped>
.rows {
  width: 100%;
  border-collapse: collapse;
  margin: 8px 0;
  font-size: 13px;
}
.rows th,
.rows td {
  text-align: left;
  padding: 4px 8px 4px 0;
  border-bottom: 1px solid var(--line);
  overflow-wrap: anywhere;
}
</style>
