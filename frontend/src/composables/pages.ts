/** Lists come from the server in pages; what offers a choice among all of them needs every one. */

export const PAGE = 200

interface Page<Row> {
  items: Row[]
  count: number
}

/** Every row of a list, the first page first: for nearly everybody that is all there is. */
export async function everyPage<Row>(
  ask: (query: { limit: number; offset: number }) => Promise<Page<Row>>,
): Promise<Page<Row>> {
  const first = await ask({ limit: PAGE, offset: 0 })
  const offsets = Array.from(
    { length: Math.max(Math.ceil(first.count / PAGE) - 1, 0) },
    (_, place) => (place + 1) * PAGE,
  )
  const others = await Promise.all(offsets.map((offset) => ask({ limit: PAGE, offset })))
  return { items: [first, ...others].flatMap((page) => page.items), count: first.count }
}
