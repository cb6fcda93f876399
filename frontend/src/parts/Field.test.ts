// @vitest-environment jsdom
import { mount } from '@vue/test-utils'
import { expect, it } from 'vitest'
import { defineComponent, ref } from 'vue'

import { Refusal } from '@/api/client'
import { useFaults } from '@/composables/useFaults'

import Field from './Field.vue'

/** A form of one field, as the editors are made. */
function form(first: unknown) {
  const value = ref(first)
  const made = defineComponent({
    components: { Field },
    setup: () => ({ value, ...useFaults() }),
    template: '<Field v-model="value" path="lens.focal_mm" label="Focal length" unit="mm" hint="as engraved" />',
  })
  return { value, shown: mount(made) }
}

it('hands on a number where one was typed, and else the text as it stands', async () => {
  const { value, shown } = form(85)
  const input = shown.get('input')
  expect(input.element.value).toBe('85')
  await input.setValue('135.5')
  expect(value.value).toBe(135.5)
  await input.setValue('long')
  expect([value.value, input.element.value]).toEqual(['long', 'long'])
  await input.setValue('')
  expect(value.value).toBeNull()
})

it('lets a decimal point be typed without taking it away', async () => {
  const { shown } = form(null)
  await shown.get('input').setValue('2.')
  expect(shown.get('input').element.value).toBe('2.')
})

it('shows the fault of its own path in place of the hint, and keeps what was typed', async () => {
  const { shown } = form(0)
  expect(shown.text()).toContain('as engraved')
  const { attempt } = shown.vm as unknown as ReturnType<typeof useFaults>
  const refused = () =>
    Promise.reject(new Refusal(422, [{ field: 'lens.focal_mm', value: 0, message: '0 mm cannot be right.' }]))
  expect(await attempt(refused)).toBe(false)
  await shown.vm.$nextTick()
  expect(shown.get('[role=alert]').text()).toBe('0 mm cannot be right.')
  expect(shown.get('input').element.value).toBe('0')
  expect(await attempt(() => Promise.resolve())).toBe(true)
  await shown.vm.$nextTick()
  expect(shown.find('[role=alert]').exists()).toBe(false)
})
