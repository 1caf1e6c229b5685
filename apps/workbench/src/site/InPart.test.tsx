// @vitest-environment happy-dom
import { cleanup, render, screen } from '@testing-library/react'
import { afterEach, describe, expect, it } from 'vitest'
import { InPart, partOf } from './InPart'
import { PackagePartsProvider } from './useParts'

afterEach(cleanup)

describe('the part of a package in which a file came', () => {
  it('is the last one that begins with it, or before it', () => {
    const starts = ['data/calls/1', 'data/notes/a', null, 'data/photos/B', 'data/photos/b']
    const numbers = ['data/calls/9', 'data/notes/a', 'data/notes/ä', 'data/photos/B', 'data/photos/a', 'data/videos/1']
    expect(numbers.map((place) => partOf(starts, place))).toEqual([1, 2, 2, 4, 4, 5])
    expect(partOf(['data/calls/1', 'data/notes/a'], 'data/a'), 'before all').toBe(1)
    expect(partOf([], 'data/a'), 'not in parts').toBeNull()
  })

  it('stands behind its name, where the package is in parts', () => {
    render(
      <PackagePartsProvider value={['data/a', 'data/n']}>
        <InPart place="data/photos/1.jpg" />
      </PackagePartsProvider>,
    )
    expect(screen.getByText('(in part 2 of 2)')).toBeDefined()
    cleanup()
    render(<InPart place="data/photos/1.jpg" />)
    expect(screen.queryByText(/part/)).toBeNull()
  })
})
