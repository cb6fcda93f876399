import { expect, test } from 'vitest'

import { eventsIn } from './readEvents'

const file = (content: string) => new File([content], 'night.json')

test('a file of events is told from any other, in words', async () => {
  const good = { format: 1, night: 12, events: [{ id: 'one' }] }
  expect(await eventsIn(file(JSON.stringify(good)))).toEqual({ night: 12, events: [{ id: 'one' }] })
  for (const wrong of [
    '',
    '{',
    '[]',
    '{"format": 2, "night": 1, "events": []}',
    '{"format": 1, "night": "1", "events": []}',
  ])
    await expect(eventsIn(file(wrong))).rejects.toThrow('is no file of events')
  await expect(eventsIn(file(' '.repeat(5_000_001)))).rejects.toThrow('larger than 5 MB')
})
