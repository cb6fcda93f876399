import { readFileSync } from 'node:fs'
import { describe, expect, it } from 'vitest'

const css = readFileSync(`${__dirname}/tokens.css`, 'utf8')
const themes = [...css.matchAll(/data-theme='(\w+)'\]\s*\{([^}]*)\}/g)].map(([, name, body]) => ({
  name,
  colours: Object.fromEntries(
    [...(body ?? '').matchAll(/--([\w-]+):\s*(#[0-9a-f]{6})/g)].map(([, token, hex]) => [token, hex]),
  ),
}))

/** Relative luminance and contrast: WCAG 2.2, definitions. */
const linear = (hex: string, at: number): number => {
  const share = parseInt(hex.slice(at, at + 2), 16) / 255
  return share <= 0.04045 ? share / 12.92 : ((share + 0.055) / 1.055) ** 2.4
}
const luminance = (hex = ''): number => 0.2126 * linear(hex, 1) + 0.7152 * linear(hex, 3) + 0.0722 * linear(hex, 5)
const contrast = (one?: string, other?: string): number => {
  const both = [luminance(one), luminance(other)]
  return (Math.max(...both) + 0.05) / (Math.min(...both) + 0.05)
}

describe.each(themes)('the $name theme', ({ colours }) => {
  it.each(['text', 'muted', 'accent', 'go', 'care', 'stop'])(
    'writes %s so that it can be read on every ground',
    (ink) => {
      for (const ground of ['ground', 'panel', 'raised'])
        expect(contrast(colours[ink], colours[ground]), ground).toBeGreaterThanOrEqual(4.5)
    },
  )
  it('writes on what is accented so that it can be read', () => {
    expect(contrast(colours['accent-text'], colours.accent)).toBeGreaterThanOrEqual(4.5)
  })
})

it('knows three themes, and the measure gives 21 for black on white', () => {
  expect(themes.map((theme) => theme.name)).toEqual(['dusk', 'day', 'field'])
  expect(contrast('#000000', '#ffffff')).toBeCloseTo(21)
})
