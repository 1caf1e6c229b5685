import { expect, it } from 'vitest'
import { warm } from './warming.js'

it('the main pages are asked for once, also where one of them fails', async () => {
  const asked: string[] = []
  await warm(async (path) => {
    asked.push(path)
    return path === '/' ? undefined : new Response('page')
  })
  expect(asked).toEqual(['/', '/jobs/0/answer', '/jobs/0/sources', '/jobs/0/findings'])
})
