// @vitest-environment jsdom
import { mount } from '@vue/test-utils'
import { afterEach, expect, it, vi } from 'vitest'
import { nextTick, ref } from 'vue'

import DropPictures from './DropPictures.vue'

const names = ref(['pair-1.jpg', 'pair-2.jpg'])
vi.mock('@/composables/usePictures', () => ({ usePictureFolder: () => ({ names, refetch: vi.fn() }) }))
const shown = (multiple: boolean, bringing = '') =>
  mount(DropPictures, { props: { label: 'Pictures', multiple, bringing }, attachTo: document.body })
afterEach(() => {
  document.body.innerHTML = ''
  names.value = ['pair-1.jpg', 'pair-2.jpg']
})

async function take(marked: number[]) {
  document.querySelectorAll('button')[0]?.click()
  for (let turn = 0; turn < 4; turn += 1) await nextTick()
  const boxes = document.querySelectorAll<HTMLInputElement>('.folder input')
  for (const place of marked) {
    boxes[place]?.click()
    await nextTick()
  }
  const button = [...document.querySelectorAll('button')].find((one) => one.textContent?.startsWith('Take'))
  const words = button?.textContent?.trim()
  button?.click()
  return words
}

it('hands over what is dropped and what is chosen', async () => {
  const view = shown(true, 'Bringing picture 1 of 2…')
  const files = [new File(['a'], 'a.jpg'), new File(['b'], 'b.jpg')]
  await view.get('.drop').trigger('drop', { dataTransfer: { files } })
  const input = view.get('input[type=file]')
  expect(input.attributes('multiple')).toBeDefined()
  Object.defineProperty(input.element, 'files', { value: files.slice(0, 1), configurable: true })
  await input.trigger('change')
  expect(view.emitted('files')).toEqual([[files], [files.slice(0, 1)]])
  expect(view.get('[role=status]').text()).toBe('Bringing picture 1 of 2…')
})

it('takes several from the folder of this machine, or the last that was marked', async () => {
  const several = shown(true)
  expect(await take([0, 1])).toBe('Take 2')
  expect(several.emitted('names')).toEqual([[['pair-1.jpg', 'pair-2.jpg']]])
  several.unmount()
  document.body.innerHTML = ''
  const one = shown(false)
  expect(await take([0, 1])).toBe('Take pair-2.jpg')
  expect(one.emitted('names')).toEqual([[['pair-2.jpg']]])
})

it('offers no folder where there is none', () => {
  names.value = []
  expect(shown(true).text()).not.toContain('folder')
})
