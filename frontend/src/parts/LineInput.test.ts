// @vitest-environment jsdom
import { mount } from '@vue/test-utils'
import { expect, it } from 'vitest'

import { freeName } from '@/composables/useNewRig'

import LineInput from './LineInput.vue'

it('takes a changed value on Enter or on leaving, and none that is the same', async () => {
  const shown = mount(LineInput, { props: { label: 'Arm', value: '96' } })
  const input = shown.get('input')
  await input.trigger('blur')
  await input.setValue(' 4.5 in ')
  await input.trigger('keydown.enter')
  expect(shown.emitted('take')).toEqual([['4.5 in']])
})

it('keeps what was typed while it is refused, and says why', async () => {
  const shown = mount(LineInput, { props: { label: 'Arm', value: '96' } })
  await shown.get('input').setValue('far')
  await shown.setProps({ fault: 'This is no length.' })
  expect(shown.get('input').element.value).toBe('far')
  expect(shown.get('[role=alert]').text()).toBe('This is no length.')
  expect(shown.get('input').attributes('aria-invalid')).toBe('true')
  await shown.setProps({ fault: '', value: '120' })
  expect(shown.get('input').element.value).toBe('120')
})

it('finds a name that is free', () => {
  expect(freeName('New rig', [])).toBe('New rig')
  expect(freeName('New rig', ['New rig', 'New rig 2'])).toBe('New rig 3')
})
