/** After something was changed on the server, every page tells it. */
import { useQueryClient, type Query } from '@tanstack/vue-query'

/** The best order of a night takes seconds to find, and a measurement tells of itself: neither is asked for again by others' changes. */
const ofItself = ({ queryKey: [first, second] }: Query) =>
  (first === 'whole' && second === 'best') || first === 'measurement'

/** What is shown now is asked for anew at once, everything else when it is shown next. */
export function useRefresh() {
  const queries = useQueryClient()
  return () => queries.invalidateQueries({ predicate: (query) => !ofItself(query) })
}
