<script setup lang="ts">
import { computed, ref } from 'vue'

import type { Schemas } from '@/api/client'
import { useSearch } from '@/composables/useCatalogue'

/** An object of the catalogue by a part of its name. */
const emit = defineEmits<{ found: [one: Schemas['EntryOut']] }>()
const words = ref('')
const MOST = 6
const { data } = useSearch(words, ref(''), ref(1), MOST)
const hits = computed(() => (words.value.trim().length > 1 ? (data.value?.items ?? []) : []))
function take(one: Schemas['EntryOut']) {
  emit('found', one)
  words.value = ''
}
</script>

<template>
  <div class="find">
    <label for="framing-find">Add by name</label>
    <input
      id="framing-find"
      v-model="words"
      type="search"
      maxlength="80"
      placeholder="such as NGC 1532"
      autocomplete="off" />
    <ul v-if="hits.length" aria-label="Found">
      <li v-for="one in hits" :key="one.key">
        <button type="button" class="plain" @click="take(one)">
          {{ one.name }}
          <span class="muted">{{ one.kind }}{{ one.constellation ? `, ${one.constellation}` : '' }}</span>
        </button>
      </li>
    </ul>
    <p v-else-if="words.trim().length > 1 && data && !data.count" class="muted" role="status">
      Nothing in the catalogue is called so.
    </p>
  </div>
</template>

<style scoped>
.find {
  display: grid;
  gap: 2px;
}
input {
  min-height: 30px;
  padding: 2px 8px;
  background: var(--raised);
  color: var(--text);
  border: 1px solid var(--line);
  border-radius: 6px;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
button {
  min-height: 28px;
  text-align: left;
}
@media (max-width: 820px) {
  input,
  button {
    min-height: 44px;
  }
}
</style>
