// @vitest-environment happy-dom
import { cleanup, render, screen, waitFor } from '@testing-library/react'
import { useState } from 'react'
import { afterEach, expect, it } from 'vitest'
import { serve } from '../../../../tests/setup/served'
import type { FindingId } from '../domain/ids'
import { Island } from './Island'
import { useAsk } from './useAsk'

afterEach(cleanup)

function Reads({ every = false }: { every?: number | false }) {
  const { answer, failed } = useAsk('GET /api/activity', {}, { every })
  return <p role="status">{failed || (answer === null ? 'asking' : `${answer.reads} at work`)}</p>
}

const text = () => screen.getByRole('status').textContent

it('shows what is answered, and says in words what went wrong', async () => {
  let working = true
  serve({
    'GET /api/activity': () => {
      if (working) return { reads: 2 }
      throw new Error('The disk is full.')
    },
  })
  render(
    <Island>
      <Reads every={20} />
    </Island>,
  )
  expect(text()).toBe('asking')
  await waitFor(() => expect(text()).toBe('2 at work'))
  working = false
  await waitFor(() => expect(text()).toBe('The disk is full.'))
  working = true
  await waitFor(() => expect(text()).toBe('2 at work'))
})

it('keeps what it has until the next answer is there', async () => {
  serve({
    'GET /api/jobs/{job}/stacks': () => [[1, 1] as [FindingId, FindingId]],
  })
  function Stacks() {
    const [job, setJob] = useState(1)
    const { answer } = useAsk('GET /api/jobs/{job}/stacks', { path: { job } })
    return (
      <button type="button" onClick={() => setJob(job + 1)}>
        {job}: {answer === null ? 'nothing' : `${answer.length} stack`}
      </button>
    )
  }
  render(
    <Island>
      <Stacks />
    </Island>,
  )
  const button = screen.getByRole('button')
  expect(button.textContent).toBe('1: nothing')
  await waitFor(() => expect(button.textContent).toBe('1: 1 stack'))
  button.click()
  await waitFor(() => expect(button.textContent).toBe('2: 1 stack'))
})

it('says the way out where a view stops', () => {
  const Broken = () => {
    throw new Error('no such thing')
  }
  const error = console.error
  console.error = () => {}
  render(
    <Island>
      <Broken />
    </Island>,
  )
  console.error = error
  expect(screen.getByRole('alert').textContent).toContain('This view stopped: no such thing. Nothing was lost.')
})
