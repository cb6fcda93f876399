<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, ref } from 'vue'

import { usePictureFolder } from '@/composables/usePictures'

import FileButton from './FileButton.vue'
import SideSheet from './SideSheet.vue'

/** Where pictures are dropped, chosen in the browser, or taken from the folder of the server's machine. */
const props = defineProps<{ label: string; multiple?: boolean; bringing: string }>()
const emit = defineEmits<{ files: [files: File[]]; names: [names: string[]] }>()
const { names, refetch } = usePictureFolder()
const over = ref(false)
const folder = ref(false)
const ticked = ref<string[]>([])
const chosen = computed(() => (props.multiple ? ticked.value : ticked.value.slice(-1)))

function dropped(event: DragEvent) {
  over.value = false
  emit('files', [...(event.dataTransfer?.files ?? [])])
}
function fromFolder() {
  emit('names', chosen.value)
  ticked.value = []
  folder.value = false
}

function openFolder() {
  void refetch()
  folder.value = true
}
</script>

<template>
  <div
    class="panel drop"
    :class="{ over }"
    @dragover.prevent="over = true"
    @dragleave="over = false"
    @drop.prevent="dropped">
    <slot />
    <p class="acts">
      <span class="drop-word">{{ multiple ? 'Drop them here, or' : 'Drop it here, or' }}</span>
      <FileButton
        :label="label"
        :words="multiple ? 'Choose pictures' : 'Choose a picture'"
        :multiple="multiple"
        accept="image/*,.fit,.fits,.fts,.dng,.tif,.tiff"
        @files="(files) => emit('files', files)" />
      <Button v-if="names.length" size="small" @click="openFolder"
        >From this machine's folder ({{ names.length }})</Button
      >
      <slot name="acts" />
    </p>
    <p v-if="bringing" role="status">{{ bringing }}</p>
    <SideSheet :open="folder" :width="460" title="Pictures in this machine's folder" @close="folder = false">
      <ul class="folder">
        <li v-for="name in names" :key="name">
          <label><input v-model="ticked" type="checkbox" :value="name" /> {{ name }}</label>
        </li>
      </ul>
      <Button type="primary" :disabled="!chosen.length" @click="fromFolder"
        >Take {{ multiple ? chosen.length || '' : (chosen[0] ?? '') }}</Button
      >
    </SideSheet>
  </div>
</template>

<style scoped>
.drop {
  padding: 10px 14px;
  display: grid;
  gap: 6px;
  border-style: dashed;
}
.drop.over {
  border-color: var(--accent);
  background: var(--raised);
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  align-items: center;
}
@media (pointer: coarse) {
  .drop-word {
    display: none;
  }
}
.folder {
  list-style: none;
  padding: 0;
}
</style>
