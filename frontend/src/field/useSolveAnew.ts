/** With a connection the server works out other nights anew; without one what is in the pack has to do. */
import { ref } from 'vue'

import { answer, api, Refusal } from '@/api/client'

import { useField } from './useField'

const EVERY_MS = 2_000
const MOST_TIMES = 60

export function useSolveAnew() {
  const field = useField()
  const doing = ref('')
  /** Cloud until a clock of the place, and the other ways beside it; then the pack is taken once more. */
  async function solve(cloudUntil: string) {
    const pack = field.pack.value
    if (!pack || doing.value) return
    const night = { spot: pack.spot, night: pack.evening }
    const body = { ...night, cloud_until: cloudUntil, late_h: 1, home_h: 1, wind: 'fresh' as const }
    doing.value = 'Asking the server…'
    try {
      let told = await answer(api.POST('/api/nights/whole/what-ifs', { body }))
      for (
        let times = 0;
        told.work && ['waiting', 'running'].includes(told.work.state) && times < MOST_TIMES;
        times++
      ) {
        doing.value = `Worked out ${Math.round(told.work.share * 100)} %`
        await new Promise((later) => setTimeout(later, EVERY_MS))
        told = await answer(api.GET('/api/nights/whole/what-ifs', { params: { query: night } }))
      }
      doing.value = ''
      if (!told.what_ifs.length) {
        field.told.value = 'The server found no answer in time. What is in the pack still holds.'
        return
      }
      await field.take(pack.night)
    } catch (failed) {
      doing.value = ''
      field.told.value =
        failed instanceof Refusal && failed.status !== 0
          ? failed.message
          : 'The server cannot be reached. What is in the pack still holds.'
    }
  }
  return { doing, solve }
}
