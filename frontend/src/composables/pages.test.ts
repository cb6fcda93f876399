import { expect, it } from 'vitest'

import { everyPage } from './pages'

const list = (count: number) => {
  const rows = Array.from({ length: count }, (_, place) => place)
  const asked: number[] = []
  const ask = async ({ limit, offset }: { limit: number; offset: number }) => {
    asked.push(offset)
    return { items: rows.slice(offset, offset + limit), count }
  }
  return { ask, asked, rows }
}

it.each([0, 1, 200, 201, 3000])('gives every row of %i, in order', async (count) => {
  const { ask, asked, rows } = list(count)
  expect((await everyPage(ask)).items).toEqual(rows)
  expect(asked).toHaveLength(Math.max(Math.ceil(count / 200), 1))
})
