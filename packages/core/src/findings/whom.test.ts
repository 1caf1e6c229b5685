import { expect, it } from 'vitest'
import { whoIs } from './whom.js'

it.each([
  ['contacts', 'Bram Okafor', {}, 'Bram Okafor'],
  ['calls', '+12025550100', {}, '+12025550100'],
  ['messages', 'Bram Okafor', { direction: 'in', senderName: 'Bram Okafor', sender: '+12025550100' }, 'Bram Okafor'],
  ['messages', 'Tour crew', { direction: 'in', sender: '+12025550100' }, '+12025550100'],
  ['messages', 'Bram Okafor', { direction: 'out' }, 'Bram Okafor'],
  ['messages', 'Bram, Pia', { direction: 'out' }, null],
  ['chats', '', { direction: 'out' }, null],
  ['photos', 'IMG_0001.JPG', {}, null],
  ['contacts', '', {}, null],
] as const)('a finding of %s titled "%s" with %j is with %s', (category, title, fields, who) => {
  expect(whoIs({ category, title, fields })).toBe(who)
})
