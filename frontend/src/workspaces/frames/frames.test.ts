// @vitest-environment jsdom
import { mount } from '@vue/test-utils'
import { beforeEach, describe, expect, it, vi } from 'vitest'

import type { Schemas } from '@/api/client'
import type { JudgedFrame, JudgedRun, Lesson } from '@/composables/useFrames'
import Choice from '@/parts/Choice.vue'

import CauseList from './CauseList.vue'
import ClockForm from './ClockForm.vue'
import CropGrid from './CropGrid.vue'
import FrameTable from './FrameTable.vue'
import OutPanel from './OutPanel.vue'
import RunTimeline from './RunTimeline.vue'
import TeachPanel from './TeachPanel.vue'
import TrailRose from './TrailRose.vue'

const MANY = 60
const each = <T>(make: (place: number) => T) => Array.from({ length: MANY }, (_, place) => make(place))
const frame = (place: number): JudgedFrame => ({
  id: 100 + place,
  name: `L${place}.jpg`,
  at: null,
  word: place === 7 ? 'cull' : place === 9 ? 'less' : 'keep',
  said: place === 3 ? 'cull' : '',
  weight: 1,
  reasons: place === 7 ? ['Stars are 1.90 times as long as wide; you allow 1.30.'] : [],
  cause: place === 7 ? 'knock' : '',
})
const verdict = (sentence: string) => ({
  level: 'care',
  sentence,
  advice: 'Now: leave it alone.',
  figures: [{ name: 'speaks for it', text: 'stars stand twice', value: null, unit: '', decimals: 1, working: null }],
})
/** Sixty frames a minute apart: the eighth was knocked, the fourth is culled by hand, the last tells nothing. */
const run = {
  run: {
    id: 5,
    counted: null,
    recognition: 'target',
    seen_width_deg: null,
    rig_width_deg: null,
    f_number: null,
    exposure_s: 60,
    target_name: 'Kite',
  },
  frames: each(frame),
  causes: [
    { key: 'knock', name: 'A knock', frames: [7], sure: 1, now: '', verdict: verdict('A knock: one frame.') },
    { key: 'cloud', name: 'Cloud', frames: [20, 21], sure: 0.9, now: '', verdict: verdict('Cloud: 2 frames.') },
  ],
  columns: {
    minutes: each((place) => place),
    elongation: each((place) => (place === MANY - 1 ? null : place === 7 ? 1.9 : 1 + place / 1000)),
    width: each(() => 2.5),
    clear: each((place) => (place === 20 ? 0.4 : 1)),
    sky: each(() => 1),
    east: each(() => 0),
    north: each(() => 0),
    trail: each((place) => (place === 7 ? 4 : place === 8 ? 2 : 0.1)),
    trail_deg: each((place) => (place === 8 ? 90 : 0)),
    worth: each((place) => (place === 7 ? 0.1 : 1)),
  },
  lessons: [],
  elongation_limit: 1.3,
  width_limit_px: 3.2,
} as unknown as JudgedRun

describe('the table of all frames', () => {
  const table = (more = {}) => mount(FrameTable, { props: { run, selected: 0, cause: '', ...more } })
  const names = (one: ReturnType<typeof table>) => one.findAll('tbody th').map((name) => name.text())
  const press = (one: ReturnType<typeof table>, words: string) =>
    one
      .findAll('button')
      .find((button) => button.text() === words || button.attributes('aria-label') === words)
      ?.trigger('click')

  it('shows a page at a time, and begins anew where the order changes', async () => {
    const one = table()
    expect(one.get('h2').text()).toBe('60 frames')
    expect(names(one)).toHaveLength(25)
    await press(one, 'Next')
    await press(one, 'Next')
    expect(names(one)).toEqual(each((place) => `L${place}.jpg`).slice(50))
    expect(one.text()).toContain('page 3 of 3')
    await one.getComponent(Choice).setValue('elongation')
    expect(one.text()).toContain('page 1 of 3')
    expect(names(one)[0]).toBe('L7.jpg')
    await one.setProps({ cause: 'cloud' })
    expect(names(one).sort()).toEqual(['L20.jpg', 'L21.jpg'])
    expect(one.text()).not.toContain('page')
  })

  it('says why, and whose word it is; one press turns it either way', async () => {
    const one = table()
    const [theirs, ours] = [one.findAll('tbody tr')[3], one.findAll('tbody tr')[7]]
    expect(theirs?.get('.word').text()).toContain('cull (you)')
    expect(ours?.text().replace(/\s+/g, ' ')).toContain(
      'A knock. Stars are 1.90 times as long as wide; you allow 1.30.',
    )
    await press(one, 'Keep L7.jpg')
    await press(one, 'Cull L0.jpg')
    await press(one, 'Keep L3.jpg')
    expect(one.emitted('say')).toEqual([
      [7, 'keep'],
      [0, 'cull'],
      [3, 'keep'],
    ])
  })

  it('has no figure where a frame does not tell one', async () => {
    const one = table()
    await one.getComponent(Choice).setValue('elongation')
    await press(one, 'Next')
    await press(one, 'Next')
    expect(one.findAll('tbody tr').at(-1)?.text()).toMatch(/^L59\.jpg.*–/)
  })
})

describe('the run over time', () => {
  beforeEach(() => {
    HTMLCanvasElement.prototype.getContext = (() => null) as never
    Element.prototype.setPointerCapture = () => undefined
  })
  const timeline = (more = {}) =>
    mount(RunTimeline, { props: { run, selected: 0, marked: [], line: null, ...more }, attachTo: document.body })
  const at = (one: ReturnType<typeof timeline>, kind: string, clientX: number, clientY = 5) =>
    one.get('svg').trigger(kind, { clientX, clientY, pointerId: 1 })
  const edges = { left: 128 + 8, right: 260 - 14 - 8 }
  const x = (minute: number) => edges.left + (minute / 59) * (edges.right - edges.left)

  it('selects the nearest frame by a press, and takes all between two places', async () => {
    const one = timeline()
    await at(one, 'pointerdown', x(30.3))
    await at(one, 'pointerup', x(30.3))
    expect(one.emitted('select')).toEqual([[30]])
    await at(one, 'pointerdown', x(40.5))
    await at(one, 'pointermove', x(20))
    expect(one.find('.brush').exists()).toBe(true)
    await at(one, 'pointerup', x(35.5))
    expect(one.emitted('brush')).toEqual([[[36, 37, 38, 39, 40]]])
    expect(one.find('.brush').exists()).toBe(false)
  })

  it('pulls a line across its lane and nothing else with it', async () => {
    const one = timeline({ line: { key: 'elongation', at: 1.5 } })
    const y = Number(one.get('.drawn line').attributes('y1'))
    await at(one, 'pointerdown', 200, y + 3)
    await at(one, 'pointermove', 200, y + 6)
    await at(one, 'pointerup', 200, y + 6)
    const [told] = one.emitted('line')?.at(-1) as [number]
    expect(told).toBeLessThan(1.5)
    expect(told).toBeGreaterThan(1.2)
    expect(one.emitted('brush')).toBeUndefined()
    expect(one.emitted('select')).toBeUndefined()
  })
})

it('draws trails as long as they are and the way they lie, and none where there is none', async () => {
  const rose = mount(TrailRose, { props: { run, selected: 8 } })
  const lines = rose.findAll('line')
  expect(lines).toHaveLength(2)
  const ends = lines.map((one) => ['x2', 'y2'].map((name) => Number(one.attributes(name))) as [number, number])
  expect(ends[0]?.[0]).toBeCloseTo(64)
  expect(ends[1]?.[1]).toBeCloseTo(32)
  expect(lines[1]?.classes()).toContain('here')
  await lines[0]?.trigger('click')
  expect(rose.emitted('select')).toEqual([[7]])
})

it('fetches the cuts of frames ahead, and cuts them whole or twice as large', async () => {
  const asked: string[] = []
  vi.stubGlobal(
    'Image',
    class {
      set src(url: string) {
        asked.push(url)
      }
    },
  )
  const grid = mount(CropGrid, { props: { frame: 100, ahead: [101, 102], twice: false, label: 'L0.jpg' } })
  await grid.setProps({ frame: 101, ahead: [102, 103] })
  expect(asked).toEqual([100, 101, 102, 103].map((id) => `/api/frames/${id}/crops.jpg`))
  const piece = () => grid.findAll('.piece')[4]?.attributes('style') ?? ''
  expect(piece()).toContain('background-size: 960px 192px')
  await grid.setProps({ twice: true })
  expect(piece()).toContain('background-size: 1920px 384px')
  expect(piece()).toContain('background-position: -1673px -137px') // middle of the fifth piece
  vi.unstubAllGlobals()
})

it('lists what spoiled frames with what spoke for it, and shows the frames of one alone', async () => {
  const list = mount(CauseList, { props: { run, chosen: 'cloud' } })
  const [knock, cloud] = list.findAll('details')
  expect(knock?.attributes('open')).toBeDefined()
  expect(knock?.text()).toContain('speaks for it: stars stand twice')
  expect(cloud?.get('button').text()).toBe('Show all frames')
  await knock?.get('button').trigger('click')
  expect(list.emitted('choose')).toEqual([['knock']])
  expect(mount(CauseList, { props: { run: { ...run, causes: [] }, chosen: '' } }).text()).toBe(
    'Nothing spoils this run.',
  )
})

it('puts a camera’s clock right in half hours and seconds, and takes the files’ own word again', async () => {
  const folder = { id: 1, clock_offset_min: 570, clock_fast_s: -12 } as never
  const form = mount(ClockForm, { props: { folder } })
  const [zone, ahead] = form.findAll('input')
  expect(zone?.element.value).toBe('9.5')
  await zone?.setValue('-3.5')
  await ahead?.setValue('3600')
  await form.trigger('submit')
  await zone?.setValue('')
  await form.trigger('submit')
  expect(form.emitted('set')).toEqual([[{ offset_min: -210, fast_s: 3600 }], [{ offset_min: null, fast_s: 3600 }]])
})

it('offers what differs from what is planned with, and an axis where the run tells one', async () => {
  const worm = {
    key: 'sky',
    name: 'Sky of this place',
    measured: '21.40 ± 0.05',
    in_use: '21',
    differs: true,
  } as Lesson
  const same = { ...worm, key: 'star width', name: 'Width of stars', differs: false } as Lesson
  const axis = { error: { altitude_arcmin: 3.04, azimuth_arcmin: -4 }, total_arcmin: 5.02 } as Schemas['RunAxis']
  const panel = mount(TeachPanel, { props: { run: { ...run, lessons: [worm, same] }, axis } })
  expect(panel.findAll('dl').map((one) => one.text())[1]).toContain('They agree.')
  expect(panel.text()).toContain('measured 5.0′ off the pole')
  expect(panel.text()).toMatch(/altitude \+3\.0′, azimuth [-−]4\.0′ to the east/)
  for (const button of panel.findAll('button')) await button.trigger('click')
  expect(panel.emitted('learn')).toEqual([[worm]])
  expect(panel.emitted('keepAxis')).toHaveLength(1)
  expect(mount(TeachPanel, { props: { run, axis: null } }).findAll('dl')).toHaveLength(0)
  const why_not = 'Not offered: something else acts on these frames (it was never in focus).'
  const withheld = mount(TeachPanel, {
    props: { run: { ...run, lessons: [{ ...worm, why_not }] }, axis: { ...axis, why_not } },
  })
  expect(withheld.findAll('button')).toHaveLength(0)
  expect(withheld.text().split(why_not)).toHaveLength(3)
})

it('asks for what the files do not say before it counts, and gives files by the limits on the page', async () => {
  const panel = mount(OutPanel, { props: { run, trouble: '', choices: { elongation_limit: 1.6 } } })
  expect(panel.findAll('input')).toHaveLength(1)
  await panel.get('input').setValue('2,8')
  await panel.get('.ant-btn-primary').trigger('click')
  expect(panel.emitted('count')).toEqual([[{ f_number: 2.8, exposure_s: undefined }]])
  const links = panel.findAll('a').map((one) => one.attributes('href'))
  expect(links).toEqual(
    ['sidecars.zip', 'tables.fits'].map((name) => `/api/frames/runs/5/${name}?elongation_limit=1.6`),
  )
  await panel.setProps({ run: { ...run, run: { ...run.run, counted: 41 } } as JudgedRun })
  expect(panel.text()).toContain('Count again')
  expect(panel.get('[role="status"]').text()).toBe('41 frames count for Kite.')
})
