// @vitest-environment happy-dom
import { cleanup, fireEvent, render, screen } from '@testing-library/react'
import { afterEach, expect, it } from 'vitest'
import { Picture } from './Picture'

afterEach(cleanup)

it('leads to its file', () => {
  render(<Picture file="data/a.heic" shown="data/a.jpg" title="a.heic" />)
  expect(screen.getByRole('link').getAttribute('href')).toBe('data/a.heic')
  expect(screen.getByRole('img', { name: 'a.heic' }).getAttribute('src')).toBe('data/a.jpg')
})

it('says what to do where its file lies in another part of the package', () => {
  render(<Picture file="data/a.heic" shown="data/a.jpg" title="a.heic" />)
  fireEvent.error(screen.getByRole('img'))
  expect(screen.queryByRole('img')).toBeNull()
  expect(screen.getByText(/copy the contents of all part folders into one folder/)).toBeDefined()
  expect(screen.getByRole('link').getAttribute('href')).toBe('data/a.heic')
})
