import { describe, expect, inject, it } from 'vitest'
import { demoBackup } from '../../../../../tests/setup/fixtures.js'
import { openBackup } from '../../backup/open.js'
import { addressKey, ContactNames } from './names.js'

describe('an address', () => {
  // Ways to write one number (ITU-T E.123) and its one international form (E.164).
  it.each([
    ['+1 (202) 555-0100', undefined, '+12025550100'],
    ['202-555-0100', 'US', '+12025550100'],
    ['(0)1 234 5678', 'AT', '+4312345678'],
    ['  Odile@Theatre.Example ', undefined, 'odile@theatre.example'],
    ['22000', undefined, '22000'],
  ] as const)('%s is one key', (address, region, key) => expect(addressKey(address, region)).toBe(key))
})

describe('names of people', () => {
  it('go with their numbers, however they are written, and with their addresses', async () => {
    const names = await ContactNames.load(await openBackup(demoBackup(inject('demoFolder')).folder, () => {}), 'us')
    expect(names.of('+12025550100')).toBe('Bram Okafor')
    expect(names.of('(202) 555-0100')).toBe('Bram Okafor')
    expect(names.of('OKAFOR0@theatre.example')).toBe('Bram Okafor')
    expect(names.of('+43123456')).toBeNull()
    expect(names.of(null)).toBeNull()
  })
})
