/** Whether the server answers, and how old what is shown is. */
import { useQueryClient } from '@tanstack/vue-query'
import { computed, onScopeDispose, ref, watch } from 'vue'

import { answer, api, reached } from '@/api/client'

const TRY_MS = 5_000

export function useReach() {
  const queries = useQueryClient()
  const now = ref(Date.now())
  /** The oldest of the answers that stand on the page. */
  const since = ref<number | null>(null)
  function look() {
    now.value = Date.now()
    const shown = queries
      .getQueryCache()
      .findAll({ type: 'active' })
      .map((one) => one.state.dataUpdatedAt)
      .filter((at) => at > 0)
    since.value = shown.length ? Math.min(...shown) : null
  }
  async function tryAgain() {
    look()
    await answer(api.GET('/api/session')).catch(() => null)
    if (reached.value) await queries.refetchQueries({ type: 'active' })
  }
  let timer = 0
  watch(
    reached,
    (there) => {
      window.clearInterval(timer)
      if (there) return
      look()
      timer = window.setInterval(() => void tryAgain(), TRY_MS)
    },
    { immediate: true },
  )
  onScopeDispose(() => window.clearInterval(timer))

  const words = computed(() => {
    if (since.value === null) return 'What was not asked before cannot be shown.'
    const minutes = Math.round((now.value - since.value) / 60_000)
    const age = minutes < 1 ? 'just now' : minutes < 120 ? `${minutes} min ago` : `${Math.round(minutes / 60)} h ago`
    const clock = new Date(since.value).toLocaleTimeString('en-GB', { hour: '2-digit', minute: '2-digit' })
    return `What you see was answered at ${clock}, ${age}.`
  })
  return { reached, words, look }
}
