/** After something was changed on the server, every page tells it. */
import { useQueryClient, type Query } from '@tanstack/vue-query'

/** The best order of a night takes seconds to find, and a measurement is followed anyway: neither is asked for again at once. */
const canWait = ({ queryKey: [first, second] }: Query) =>
  (first === 'whole' && second === 'best') || first === 'measurement'

/** What is shown now is asked for anew at once, everything else when it is shown next. */
export function useRefresh() {
  const queries = useQueryClient()
  return async () => {
    await queries.invalidateQueries({ predicate: canWait, refetchType: 'none' })
    await queries.invalidateQueries({ predicate: (query) => !canWait(query) })
  }
}
