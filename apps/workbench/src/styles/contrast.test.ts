import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'

const CSS = readFileSync(join(import.meta.dirname, 'house.css'), 'utf8')

function tokensOf(selector: string): Map<string, string> {
  const block = CSS.slice(CSS.indexOf(`${selector} {`)).split('}', 1)[0] ?? ''
  return new Map([...block.matchAll(/--([\w-]+): (#[0-9a-f]{6});/g)].map(([, name = '', hex = '']) => [name, hex]))
}

/** Web Content Accessibility Guidelines 2.2, definition of relative luminance. */
function luminance(hex: string): number {
  const [r = 0, g = 0, b = 0] = [1, 3, 5].map((at) => {
    const share = Number.parseInt(hex.slice(at, at + 2), 16) / 255
    return share <= 0.04045 ? share / 12.92 : ((share + 0.055) / 1.055) ** 2.4
  })
  return 0.2126 * r + 0.7152 * g + 0.0722 * b
}

/** The same, definition of contrast ratio. */
function contrast(a: string, b: string): number {
  const [light = 0, dark = 0] = [luminance(a), luminance(b)].sort((x, y) => y - x)
  return (light + 0.05) / (dark + 0.05)
}

const SURFACES = ['paper', 'raised', 'sunk', 'wash']
const TEXTS = ['ink', 'soft', 'accent', 'kept', 'binned', 'earlier', 'rebuilt', 'partial', 'elsewhere']
const TINTS = ['hit', 'tint-1', 'tint-2', 'tint-3', 'tint-4', 'tint-5', 'tint-6', 'tint-7']

describe.each([
  ['light', ':root'],
  ['dark', ':root[data-theme="dark"]'],
])('in %s', (_, selector) => {
  const tokens = tokensOf(selector)
  const ratio = (text: string, surface: string) => contrast(tokens.get(text) ?? '', tokens.get(surface) ?? '')

  it.each(TEXTS)('text in %s can be read on every surface (success criterion 1.4.3: 4.5 to 1)', (text) => {
    for (const surface of SURFACES)
      expect([surface, ratio(text, surface)]).toEqual([surface, expect.toSatisfy(above(4.5))])
  })

  it('text stands out from its marks, and that of a main button from the button', () => {
    for (const tint of TINTS) expect([tint, ratio('ink', tint)]).toEqual([tint, expect.toSatisfy(above(4.5))])
    expect(ratio('on-accent', 'accent')).toBeGreaterThanOrEqual(4.5)
  })

  it('the border of a field stands out from what is around it (1.4.11: 3 to 1)', () => {
    for (const surface of SURFACES) expect(ratio('soft', surface)).toBeGreaterThanOrEqual(3)
  })
})

const above = (least: number) => (value: number) => value >= least

it('the measure is that of the guidelines: black on white is 21 to 1, and the grey of their examples 4.54', () => {
  expect(contrast('#000000', '#ffffff')).toBeCloseTo(21, 5)
  expect(contrast('#767676', '#ffffff')).toBeCloseTo(4.54, 2)
})
