// @vitest-environment happy-dom
import { cleanup, render, screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, expect, it } from 'vitest'
import { serve } from '../../../../../tests/setup/served'
import { Operator } from './Operator'

afterEach(cleanup)

it('says who works at this browser, by keyboard alone', async () => {
  const user = userEvent.setup()
  let current = ''
  const asked = serve({
    'GET /api/operators': () => ({ current, known: ['Zoë Lindqvist'] }),
    'PUT /api/session': () => {
      current = 'Ilse'
      return null
    },
  })
  render(<Operator />)
  await waitFor(() => screen.getByRole('button', { name: 'Who works here?' }))
  await user.tab()
  await user.keyboard('{Enter}')
  const field = await screen.findByLabelText('Your name')
  await waitFor(() => expect(document.activeElement).toBe(field))
  await user.keyboard('Ilse{Enter}')
  await waitFor(() => screen.getByRole('button', { name: 'Ilse' }))
  expect(asked.find(({ name }) => name === 'PUT /api/session')?.body).toEqual({ operator: 'Ilse' })
  expect(screen.queryByLabelText('Your name')).toBeNull()
})

it('closes with Escape, and says what went wrong', async () => {
  const user = userEvent.setup()
  serve({
    'GET /api/operators': { current: 'Bram', known: [] },
    'PUT /api/session': () => {
      throw new Error('The session has ended.')
    },
  })
  render(<Operator />)
  await user.click(await screen.findByRole('button', { name: /Bram|Ilse/ }))
  await user.click(await screen.findByRole('button', { name: 'I work here' }))
  expect((await screen.findByRole('alert')).textContent).toBe('The session has ended.')
  await user.click(screen.getByLabelText('Your name'))
  await user.keyboard('{Escape}')
  expect(screen.queryByLabelText('Your name')).toBeNull()
})
