<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, onMounted, ref } from 'vue'
import { useRoute } from 'vue-router'

import { fetchSession, useSession } from '@/composables/useSession'
import { useFaults } from '@/composables/useFaults'
import Field from '@/parts/Field.vue'
import FormFaults from '@/parts/FormFaults.vue'
import { useTheme } from '@/theme/useTheme'

useTheme()
const route = useRoute()
const { session, enter } = useSession()
const { busy, attempt } = useFaults()
const username = ref('')
const password = ref('')
const making = ref(false)
const then = computed(() => {
  const wanted = String(route.query.then ?? '/tonight')
  return wanted.startsWith('/') && !wanted.startsWith('//') ? wanted : '/tonight'
})

onMounted(() => attempt(fetchSession))

const go = (how: 'sign-in' | 'account') => attempt(() => enter(how, username.value, password.value, then.value))
function demo() {
  const offered = session.value?.demo
  if (!offered) return
  username.value = offered.username
  password.value = offered.password
  void go('sign-in')
}
</script>

<template>
  <main class="door">
    <svg class="band" viewBox="0 0 100 10" preserveAspectRatio="none" aria-hidden="true">
      <defs>
        <linearGradient id="door">
          <stop offset="0" style="stop-color: var(--sky-sunset)" />
          <stop offset=".16" style="stop-color: var(--sky-rose)" />
          <stop offset=".36" style="stop-color: var(--sky-violet)" />
          <stop offset=".6" style="stop-color: var(--sky-dark)" />
          <stop offset=".84" style="stop-color: var(--sky-violet)" />
          <stop offset="1" style="stop-color: var(--sky-rose)" />
        </linearGradient>
      </defs>
      <rect width="100" height="10" fill="url(#door)" />
      <path
        d="M0 10V8.300l6-.8 5 .9 9-1.600 8 1.300 12-.5 9 .9 13-1.800 8 1.500 11-.7 10 1 9-.8V10z"
        style="fill: var(--ground)" />
    </svg>
    <h1>Wide Dusk</h1>
    <p class="claim">
      One night with a star tracker, worked out: what the rig carries, when the target is free, how true the axis must
      be, how long to expose, and what to key in.
    </p>
    <form class="panel sheet" @submit.prevent="go(making ? 'account' : 'sign-in')">
      <FormFaults />
      <Field v-model="username" path="username" label="Name" kind="text" />
      <Field
        v-model="password"
        path="password"
        label="Password"
        kind="password"
        :hint="making ? 'At least 8 characters, not only digits, not a common one.' : ''" />
      <Button type="primary" html-type="submit" :loading="busy" block>{{
        making ? 'Make the account' : 'Sign in'
      }}</Button>
      <button v-if="session?.sign_up" type="button" class="plain switch" @click="making = !making">
        {{ making ? 'I have an account: sign in' : 'No account yet? Make one' }}
      </button>
      <div v-if="session?.demo" class="demo">
        <Button block @click="demo">Look around with the demo account</Button>
        <small class="muted"
          >Name <span class="fixed">{{ session.demo.username }}</span>, password
          <span class="fixed">{{ session.demo.password }}</span></small
        >
      </div>
    </form>
  </main>
</template>

<style scoped>
.door {
  display: flex;
  flex-direction: column;
  align-items: center;
  gap: 14px;
  padding-bottom: 40px;
}
.band {
  width: 100%;
  height: 200px;
}
h1 {
  font-size: 40px;
  font-weight: 600;
  letter-spacing: 0.01em;
  margin-top: -12px;
}
.claim {
  max-width: 480px;
  text-align: center;
  color: var(--muted);
  font-size: 16px;
}
.sheet {
  width: 340px;
  padding: 18px;
  display: flex;
  flex-direction: column;
  gap: 8px;
}
.switch {
  color: var(--accent);
  text-decoration: underline;
  text-align: center;
}
.demo {
  display: flex;
  flex-direction: column;
  gap: 4px;
  border-top: 1px solid var(--line);
  margin-top: 8px;
  padding-top: 12px;
  text-align: center;
}
</style>
