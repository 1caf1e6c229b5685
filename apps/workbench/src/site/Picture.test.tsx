// @vitest-environment happy-dom
import { cleanup, fireEvent, render, screen } from '@testing-library/react'
import { afterEach, expect, it } from 'vitest'
import { Picture } from './Picture'
import { PackagePartsProvider } from './useParts'

afterEach(cleanup)

it('leads to its file', () => {
  render(<Picture file="data/a.heic" shown="data/a.jpg" title="a.heic" />)
  expect(screen.getByRole('link').getAttribute('href')).toBe('data/a.heic')
  expect(screen.getByRole('img', { name: 'a.heic' }).getAttribute('src')).toBe('data/a.jpg')
})

it('says in which part of the package it came, and what to do, where it cannot be shown', () => {
  render(
    <PackagePartsProvider value={[null, 'data/a']}>
      <Picture file="data/b c.heic" shown="data/b.jpg" title="b c.heic" />
    </PackagePartsProvider>,
  )
  fireEvent.error(screen.getByRole('img'))
  expect(screen.queryByRole('img')).toBeNull()
  expect(screen.getByText(/It came in part 2 of 2\..*copied into one folder/)).toBeDefined()
  expect(screen.getByRole('link').getAttribute('href')).toBe('data/b%20c.heic')
})

it('says nothing of parts where there are none', () => {
  render(<Picture file="data/a.heic" shown="data/a.jpg" title="a.heic" />)
  fireEvent.error(screen.getByRole('img'))
  expect(screen.queryByText(/part/)).toBeNull()
})
