// @vitest-environment happy-dom
import { cleanup, render, screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, expect, it, vi } from 'vitest'
import { serve } from '../../../../../tests/setup/served'
import { Island } from '../../components/Island'
import type { LockState } from '../../domain/source'
import { Unlock } from './Unlock'

afterEach(cleanup)

it('takes a password, shows how far it is, and tells when the lock is open', async () => {
  const user = userEvent.setup()
  const states: LockState[] = [
    { state: 'locked', share: 0, message: null },
    { state: 'opening', share: 0.5, message: null },
    { state: 'open', share: 1, message: null },
  ]
  let at = 0
  const asked = serve({
    'GET /api/sources/{source}/lock': () => states[Math.min(at++, 2)] as LockState,
    'POST /api/sources/{source}/lock': null,
  })
  const opened = vi.fn()
  render(
    <Island>
      <Unlock sourceId={7} wasOpen={false} opened={opened} />
    </Island>,
  )
  const field = await screen.findByLabelText(/password/i)
  await user.type(field, 'seven strings{Enter}')
  await waitFor(() => expect(opened).toHaveBeenCalled(), { timeout: 3000 })
  expect(screen.getByText(/Unlocked. The password was not kept/)).toBeTruthy()
  expect(asked.find(({ name }) => name.startsWith('POST'))).toMatchObject({
    address: '/api/sources/7/lock',
    body: { password: 'seven strings' },
  })
})

it('says why a password was wrong, and asks again', async () => {
  serve({ 'GET /api/sources/{source}/lock': { state: 'locked', share: 0, message: 'The password is wrong.' } })
  render(
    <Island>
      <Unlock sourceId={8} wasOpen opened={() => {}} />
    </Island>,
  )
  expect((await screen.findByRole('alert')).textContent).toBe('The password is wrong.')
  expect(screen.getByText(/went when Lumbrin stopped, so the password is needed again/)).toBeTruthy()
  expect((screen.getByLabelText(/password/i) as HTMLInputElement).value).toBe('')
})
