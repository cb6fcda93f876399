// @vitest-environment jsdom
import { mount } from '@vue/test-utils'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { nextTick } from 'vue'

import VerdictsSaid from './VerdictsSaid.vue'

beforeEach(() => vi.useFakeTimers())
afterEach(() => vi.useRealTimers())

it('says what changed once it rests, and nothing while a hand still drags', async () => {
  const verdicts = (balance: string) => [
    { topic: 'Payload', sentence: 'The tracker bears it.' },
    { topic: 'Balance', sentence: balance },
  ]
  const view = mount(VerdictsSaid, { props: { verdicts: verdicts('Even.') } })
  for (const turn of ['Off by 1.', 'Off by 2.', 'Off by 3.']) {
    await view.setProps({ verdicts: verdicts(turn) })
    vi.advanceTimersByTime(200)
    await nextTick()
    expect(view.text()).toBe('')
  }
  vi.advanceTimersByTime(900)
  await nextTick()
  expect(view.text()).toBe('Balance: Off by 3.')
})
