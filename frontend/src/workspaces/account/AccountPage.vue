<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { ref } from 'vue'

import { answer, api } from '@/api/client'
import { useFaults } from '@/composables/useFaults'
import { saveFile } from '@/composables/useFiles'
import { useSession } from '@/composables/useSession'
import Field from '@/parts/Field.vue'
import FormFaults from '@/parts/FormFaults.vue'

/** One's own account: another password, no sessions elsewhere, everything in one file, the end of it. */
const { session, forget } = useSession()
const { busy, attempt } = useFaults()
const old = ref('')
const fresh = ref('')
const ending = ref(false)
const said = ref('')

const change = () =>
  attempt(async () => {
    await answer(api.PUT('/api/account/password', { body: { password: old.value, new_password: fresh.value } }))
    old.value = fresh.value = ''
    said.value = 'Your password is changed; every other session has ended.'
  })
const elsewhere = () =>
  attempt(async () => {
    const { ended } = await answer(api.POST('/api/account/sign-out-elsewhere'))
    said.value = ended === 1 ? 'One session elsewhere has ended.' : `${ended} sessions elsewhere have ended.`
  })
const take = () => attempt(async () => saveFile(await answer(api.GET('/api/account/export'))))
const end = () =>
  attempt(async () => {
    await answer(api.POST('/api/account/delete', { body: { password: old.value } }))
    await forget()
  })
</script>

<template>
  <main class="page">
    <h1>Account of {{ session?.username }}</h1>
    <FormFaults />
    <p v-if="said" role="status">{{ said }}</p>
    <form class="panel sheet" @submit.prevent="change">
      <h2>{{ ending ? 'Delete the account' : 'Password' }}</h2>
      <Field v-model="old" path="password" label="Your password" kind="password" />
      <Field
        v-if="!ending"
        v-model="fresh"
        path="new_password"
        label="New password"
        kind="password"
        hint="At least 8 characters, not only digits, not a common one. Every other session ends." />
      <p v-if="ending">
        Rigs, places, targets, plans, trips and pictures go with the account, at once and for good. Download everything
        first; then type your password to delete.
      </p>
      <div class="row">
        <Button v-if="!ending" type="primary" html-type="submit" :loading="busy">Change the password</Button>
        <Button v-if="ending" danger type="primary" :loading="busy" @click="end">Delete it all</Button>
        <Button v-if="ending" @click="ending = false">Keep it</Button>
      </div>
    </form>
    <div class="row">
      <Button :loading="busy" @click="elsewhere">Sign out everywhere else</Button>
      <Button :loading="busy" @click="take">Download everything (JSON)</Button>
      <Button v-if="!ending" danger @click="ending = true">Delete the account</Button>
    </div>
  </main>
</template>

<style scoped>
.page {
  padding: 16px 24px;
  max-width: 560px;
  display: flex;
  flex-direction: column;
  gap: 14px;
}
h1 {
  font-size: 22px;
}
.sheet {
  padding: 14px 16px;
  display: flex;
  flex-direction: column;
  gap: 8px;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
</style>
