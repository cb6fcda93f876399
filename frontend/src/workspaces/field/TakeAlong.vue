<script setup lang="ts">
import { Alert, Button } from 'ant-design-vue'
import { ref } from 'vue'

import { answer, api, Refusal, type Schemas } from '@/api/client'
import { saveFile } from '@/composables/useFiles'

/** The ways into the field: open it, read the code with a phone, or save one file. */
const props = defineProps<{ night: number; reach: Schemas['ReachOut'] }>()
const saving = ref(false)
const failed = ref('')

async function save() {
  saving.value = true
  failed.value = ''
  const params = { path: { record_id: props.night } }
  try {
    saveFile(await answer(api.GET('/api/nights/{record_id}/pack/file', { params })))
  } catch (wrong) {
    if (!(wrong instanceof Refusal)) throw wrong
    failed.value = wrong.message
  } finally {
    saving.value = false
  }
}
</script>

<template>
  <section class="panel box" aria-label="Take it along">
    <h2>Take it along</h2>
    <p>
      The whole night, worked out beforehand: steps, cards, cues, what if. On the phone it works from dusk to dawn
      without a connection.
    </p>
    <Button type="primary" size="large" :href="`/field/#/${night}`">Open the field here</Button>
    <template v-if="reach.on_the_network">
      <div class="code">
        <img :src="reach.picture" width="132" height="132" :alt="`Code of the address ${reach.address}`" />
        <div>
          <p>On a phone in the same network read this code, or open</p>
          <p class="fixed">{{ reach.address }}</p>
        </div>
      </div>
      <details>
        <summary>The first time on a phone</summary>
        <ol>
          <li>
            Open <span class="fixed">{{ reach.authority_address }}</span> there and save the certificate. The browser
            warns: it does not know this machine yet.
          </li>
          <li>
            In the phone’s security settings install it as a certificate authority, and where the phone asks, trust it
            for web pages.
          </li>
          <li>
            Compare the fingerprint: <span class="fixed print">{{ reach.fingerprint }}</span>
          </li>
          <li>Read the code above, sign in, and add the page to the home screen.</li>
        </ol>
        <p class="muted">It is good for addresses of local networks and nothing else, and was made on this machine.</p>
      </details>
    </template>
    <p v-else class="muted">
      This site answers on this machine only. <span class="fixed">./wide-dusk start --lan</span> serves it to a phone in
      the same network, over HTTPS.
    </p>
    <h3>Without a network</h3>
    <p>
      The same night as one file to save on the phone; it opens there by itself and keeps its checks. What was taken
      down comes back as a file.
    </p>
    <Button :loading="saving" @click="save">Save as one file</Button>
    <Alert v-if="failed" type="error" show-icon :message="failed" />
  </section>
</template>

<style scoped>
.box {
  padding: 14px 16px;
  display: grid;
  gap: 10px;
  justify-items: start;
}
h3 {
  font-size: 14px;
  margin-top: 6px;
}
.code {
  display: flex;
  gap: 16px;
  align-items: center;
  flex-wrap: wrap;
}
details > * + * {
  margin-top: 8px;
}
summary {
  cursor: pointer;
  min-height: 32px;
}
img {
  background: #fff;
  padding: 6px;
  border-radius: 8px;
}
ol {
  margin: 0;
  padding-left: 20px;
  display: grid;
  gap: 6px;
}
.print {
  overflow-wrap: anywhere;
  font-size: 13px;
}
</style>
