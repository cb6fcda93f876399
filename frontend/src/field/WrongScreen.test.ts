// @vitest-environment jsdom
/** From what is seen to what to do: looked up in the pack, taken down with what was said. */
import { flushPromises, mount } from '@vue/test-utils'
import { expect, test } from 'vitest'

import type { Pack } from './store'
import { useField } from './useField'
import WrongScreen from './WrongScreen.vue'

const cause = (key: string) => ({
  key,
  name: `Cause ${key}`,
  in_a_frame: '',
  over_the_run: '',
  now: `Do ${key}`,
  next_time: '',
  note: '',
  follows: false,
})
const symptom = (key: string) => ({
  key,
  words: `See ${key}`,
  question: 'first',
  stars: [],
  background: 0,
  line: false,
  gear: key === 'timer',
})
const knowledge = {
  symptoms: [symptom('long'), symptom('fat'), symptom('timer')],
  questions: [
    {
      key: 'first',
      words: 'Since when?',
      replies: [
        { words: 'From the first', cause: 'focus', question: '' },
        { words: 'Since a while', cause: '', question: 'second' },
      ],
    },
    { key: 'second', words: 'Is the glass wet?', replies: [{ words: 'Wet', cause: 'dew', question: '' }] },
  ],
  causes: [cause('focus'), cause('dew')],
}
const pack = {
  night: 3,
  made_at: '2026-12-08T18:00:00Z',
  time_zone: 'UTC',
  rigs: [{ name: 'one' }],
  runs: [],
  steps: [],
  cues: [],
  knowledge,
} as unknown as Pack

test('two questions lead to a cause, and what was said is taken down', async () => {
  const field = useField()
  await field.begin(pack)
  const screen = mount(WrongScreen, { props: { pack } })
  const press = async (words: string) => {
    const found = screen.findAll('button').find((one) => one.text() === words)
    expect(found, words).toBeDefined()
    await found?.trigger('click')
    await flushPromises()
  }
  await press('See fat')
  expect(screen.text()).toContain('Since when?')
  await press('Since a while')
  expect(screen.text()).toContain('Question 2')
  await press('Wet')
  expect(screen.text()).toContain('Cause dew')
  expect(screen.text()).toContain('Do dew')
  await press('Something else')
  expect(screen.text()).toContain('What do you see?')
  expect(field.events.value).toHaveLength(0)

  await press('See long')
  await press('From the first')
  await press('Record it')
  expect(screen.emitted('left')).toHaveLength(1)
  const [taken] = field.events.value
  expect(taken?.event.kind).toBe('wrong')
  expect(taken?.event.data).toEqual({ symptom: 'long', cause: 'focus', said: 'From the first', run: null })
})
