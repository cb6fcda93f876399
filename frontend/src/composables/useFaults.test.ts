// @vitest-environment jsdom
import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import { defineComponent, h, ref } from 'vue'

import { Refusal } from '@/api/client'
import Field from '@/parts/Field.vue'
import FieldFault from '@/parts/FieldFault.vue'
import FormFaults from '@/parts/FormFaults.vue'

import { useFaults } from './useFaults'

function form(fields: () => ReturnType<typeof h>[]) {
  let attempt!: ReturnType<typeof useFaults>['attempt']
  const page = mount(
    defineComponent(() => {
      ;({ attempt } = useFaults())
      return () => h('form', [h(FormFaults), ...fields()])
    }),
  )
  const refuse = (...list: { field: string; message: string }[]) =>
    attempt(() =>
      Promise.reject(
        new Refusal(
          422,
          list.map((one) => ({ ...one, value: null })),
        ),
      ),
    )
  return { page, refuse }
}

describe('what is wrong with a form', () => {
  it('stands at its field, or on top where no field of the page is meant, and never nowhere', async () => {
    const { page, refuse } = form(() => [
      h(Field, { path: 'hand.f_number', label: 'Opens to f/' }),
      h(FieldFault, { path: 'spots' }),
    ])
    await refuse(
      { field: 'hand.f_number', message: 'Too wide.' },
      { field: 'f_number', message: 'Not read.' },
      { field: 'spots', message: 'None given.' },
      { field: '', message: 'Busy.' },
      { field: '', message: 'Try again.' },
    )
    expect(page.get('.field').text()).toContain('Too wide.')
    const top = page.get('.ant-alert').text()
    expect(top).toContain('f-number: Not read.')
    expect(top).toContain('Busy. Try again.')
    expect(top).not.toContain('Too wide.')
    expect(page.findAll('[role=alert]').some((one) => one.text() === 'None given.')).toBe(true)
  })

  it('moves to the top when its field leaves the page', async () => {
    const shown = ref(true)
    const { page, refuse } = form(() => (shown.value ? [h(Field, { path: 'iso', label: 'ISO' })] : []))
    await refuse({ field: 'iso', message: 'Too high.' })
    expect(page.find('.ant-alert').exists()).toBe(false)
    shown.value = false
    await page.vm.$nextTick()
    expect(page.get('.ant-alert').text()).toContain('Too high.')
  })
})

const PAGES = import.meta.glob<string>('/src/**/*.vue', { query: '?raw', import: 'default', eager: true })
const OWN_WAY = { elsewhere: /told|trouble|elsewhere|:faults=/, form: /useFaults\(|showFaults\(/, editor: /useEditor</ }

it.each(Object.entries(PAGES).filter(([, text]) => OWN_WAY.form.test(text) || OWN_WAY.editor.test(text)))(
  '%s has a place for what belongs to none of its fields',
  (_, text) => {
    const [, template = ''] = text.split('</script>')
    expect(/<FormFaults|<FormDrawer/.test(template) || OWN_WAY.elsewhere.test(template)).toBe(true)
  },
)
