// @vitest-environment happy-dom
import { cleanup, configure, render, screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import { serve } from '../../../../tests/setup/served'
import { jobs } from './fixtures'
import { Playground } from './Playground'

// A crowded machine may stand still for a while: what does not come at all is told all the same.
configure({ asyncUtilTimeout: 60_000 })
afterEach(cleanup)
beforeEach(() => {
  serve({ 'GET /api/jobs': jobs as never })
  render(<Playground />)
})

const show = (name: string) => within(screen.getByRole('region', { name }))

describe('every view state says what is so, and the way on', () => {
  it.each([
    ['Answer: found', 'Found', 'Put all 219 matches in the tray'],
    ['Answer: found in part', 'Found in part', 'Put all 219 matches in the tray'],
    ['Answer: there before the loss', 'There before the loss', 'Put all 219 matches in the tray'],
    ['Answer: not found so far', 'Not found so far', 'Change the brief'],
    ['Answer: not found', 'Not found', 'Change the brief'],
  ])('%s', (name, heading, button) => {
    expect(show(name).getByRole('heading', { name: heading, level: 2 })).toBeTruthy()
    expect(show(name).getByRole('button', { name: button })).toBeTruthy()
  })

  it.each([
    ['Read: queued', 'Read waiting for the reader', 'Stop'],
    ['Read: running', 'Read running', 'Stop'],
    ['Read: stopped', 'Read stopped; what was found stays', 'Resume'],
    ['Read: away', 'Read waits for its source or its password', 'Try now'],
    ['Read: failed', 'Read failed; what was found stays', 'Resume'],
    ['Read: gaps', 'Read done, with gaps', 'Try again what is missing'],
  ])('%s', (name, words, button) => {
    expect(show(name).getByText(words)).toBeTruthy()
    expect(show(name).getByRole('button', { name: button })).toBeTruthy()
  })

  it('names what a read could not have', () => {
    const gaps = show('Read: gaps')
    expect(gaps.getByText(/part of its database could not be read/)).toBeTruthy()
    expect(gaps.getByText(/12 damaged rows, 2 damaged pages/)).toBeTruthy()
    expect(gaps.getByText(/7 without content: listed, but not in the source/)).toBeTruthy()
  })

  it('says what of a handover is missing', () => {
    expect(show('Handover: done').getByText(/2 items/)).toBeTruthy()
    expect(show('Handover: failed').getByRole('alert').textContent).toContain('The folder is not there any more.')
  })

  it('has a word where there is nothing to show', () => {
    expect(show('No results').getAllByText(/Loading|Nothing|does not answer/)).toHaveLength(4)
    expect(show('No job yet').getByRole('link', { name: 'New job' })).toBeTruthy()
  })
})

describe('the parts that everything is made of', () => {
  it('a dialog takes the focus, and gives it back when Escape closes it', async () => {
    const user = userEvent.setup()
    const button = screen.getByRole('button', { name: 'Open a dialog' })
    await user.click(button)
    const dialog = await screen.findByRole('dialog', { name: 'A dialog' })
    await waitFor(() => expect(dialog.contains(document.activeElement)).toBe(true))
    await user.keyboard('{Escape}')
    expect(screen.queryByRole('dialog')).toBeNull()
    await waitFor(() => expect(document.activeElement).toBe(button))
  })

  it('a day is passed on when it is one, and told to be none until then', async () => {
    const user = userEvent.setup()
    const field = screen.getByLabelText('No day') as HTMLInputElement
    await user.type(field, '2026-02-3')
    expect(screen.getByText('A day looks like 2026-11-14.')).toBeTruthy()
    await user.type(field, '0')
    // February has no 30th day.
    expect(field.getAttribute('aria-invalid')).toBe('true')
    await user.clear(field)
    await user.type(field, '2026-02-28')
    expect(field.getAttribute('aria-invalid')).toBe('false')
  })

  it('a day is picked from a month that begins on Monday', async () => {
    const user = userEvent.setup()
    await user.click(screen.getByRole('button', { name: 'Calendar: A day' }))
    const month = await screen.findByRole('grid')
    expect(within(month).getAllByRole('columnheader', { hidden: true })[0]?.textContent).toMatch(/^Mo/)
    await user.click(within(month).getByRole('button', { name: /17(th)? November 2026|November 17/ }))
    expect((screen.getByLabelText('A day') as HTMLInputElement).value).toBe('2026-11-17')
  })
})
