/** Who is signed in, and what time it is by the server. */
import { useQueryClient } from '@tanstack/vue-query'
import { ref } from 'vue'
import { useRouter } from 'vue-router'

import { answer, api, type Schemas } from '@/api/client'

import { forgetAnswers } from './keptAnswers'

export type Session = Schemas['SessionOut']

const session = ref<Session | null>(null)

export async function fetchSession(): Promise<Session> {
  session.value ??= await answer(api.GET('/api/session'))
  return session.value
}

export function useSession() {
  const router = useRouter()
  const queries = useQueryClient()

  async function enter(how: 'sign-in' | 'account', username: string, password: string, then: string) {
    const body = { username, password }
    session.value = await answer(
      how === 'sign-in' ? api.POST('/api/session', { body }) : api.POST('/api/session/account', { body }),
    )
    queries.clear()
    await forgetAnswers()
    // The field is an application of its own, at an address that this router does not know.
    if (then.startsWith('/field/')) window.location.assign(then)
    else await router.push(then)
  }

  /** Back to the sign-in page with nothing left of whoever was here. */
  async function forget() {
    session.value = await answer(api.GET('/api/session'))
    queries.clear()
    await forgetAnswers()
    await router.push({ name: 'sign-in' })
  }

  /** The session ran out: sign in, and come back to where one was. */
  async function signInAgain() {
    session.value = null
    await router.push({ name: 'sign-in', query: { then: router.currentRoute.value.fullPath } })
  }

  async function leave() {
    await answer(api.DELETE('/api/session'))
    await forget()
  }

  return { session, enter, leave, forget, signInAgain }
}
