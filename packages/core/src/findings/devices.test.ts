import { describe, expect, it } from 'vitest'
import { deviceKeys, devicesOf, type NamedSource, NOTHING_SAID } from './devices.js'

const source = (id: number, part: Partial<NamedSource> = {}): NamedSource => ({
  id,
  kind: 'computer-backup',
  uniqueId: null,
  serialNumber: null,
  said: null,
  name: `source ${id}`,
  productType: null,
  takenAt: id,
  ...part,
})
const keysOf = (...sources: NamedSource[]) => [...deviceKeys(sources).values()]

describe('which device a source is of', () => {
  it('is told by its unique id, however that is written', () => {
    const [one, other, third] = keysOf(
      source(1, { uniqueId: '00008110-0007A5C22E8B401E' }),
      source(2, { uniqueId: '000081100007a5c22e8b401e', kind: 'device' }),
      source(3, { uniqueId: '00008110-000000000000001E' }),
    )
    expect(one).toBe(other)
    expect(third).not.toBe(one)
  })

  it('is told by its serial number where one of the two has no more', () => {
    const [one, other, third] = keysOf(
      source(1, { uniqueId: 'aa', serialNumber: 'F2L' }),
      source(2, { serialNumber: 'f2l' }),
      source(3, { serialNumber: 'F3X' }),
    )
    expect(one).toBe(other)
    expect(third).not.toBe(one)
  })

  it('is one of its own for what says nothing, until the technician says which', () => {
    const image = source(2, { kind: 'image' })
    expect(new Set(keysOf(source(1, { uniqueId: 'aa' }), image, source(3))).size).toBe(3)
    const [phone, said] = keysOf(source(1, { uniqueId: 'aa' }), { ...image, said: 'id:aa' })
    expect(said).toBe(phone)
  })

  it('does not depend on the order of sources', () => {
    const sources = [source(1, { serialNumber: 'x' }), source(2, { uniqueId: 'b', serialNumber: 'X' }), source(3)]
    const forward = deviceKeys(sources)
    const backward = deviceKeys([...sources].reverse())
    for (const { id } of sources) expect(forward.get(id)).toBe(backward.get(id))
  })

  it('is the account for a library', () => {
    expect(keysOf(source(1, { kind: 'cloud-library', uniqueId: 'aa' }))).toEqual(['account'])
  })
})

describe('the devices of a job', () => {
  const phone = source(1, { uniqueId: 'aa', name: 'Odile’s phone' })
  const newer = source(4, { uniqueId: 'aa', name: 'Odile’s new name', takenAt: 9 })
  const tablet = source(2, { uniqueId: 'bb', name: 'Stage tablet' })
  const library = source(3, { kind: 'cloud-library', name: 'Library' })
  const rolesOf = (...input: Parameters<typeof devicesOf>) =>
    devicesOf(...input).devices.map(({ key, role }) => `${key} ${role}`)

  it('are named by their newest source, with that of the brief first and the account last', () => {
    const { devices } = devicesOf([library, tablet, newer, phone], NOTHING_SAID, '')
    expect(devices.map(({ name, role }) => `${name}: ${role}`)).toEqual([
      'Odile’s new name: brief',
      'Stage tablet: owner',
      'Library: account',
    ])
  })

  it.each([
    ['what the technician said', { brief: 'id:bb', others: [] }, '', 'id:bb brief'],
    ['the name in the brief', NOTHING_SAID, 'my Stage Tablet', 'id:bb brief'],
    ['the source that was added first', NOTHING_SAID, 'a telephone', 'id:aa brief'],
    ['another than what is somebody else’s', { brief: null, others: ['id:aa'] }, '', 'id:bb brief'],
  ])('the brief is about %s', (_, said, named, first) => {
    expect(rolesOf([phone, tablet, library], said, named)[0]).toBe(first)
  })

  it('that of the brief is no account, and nothing without a name where there is anything else', () => {
    expect(rolesOf([library], NOTHING_SAID, '')).toEqual(['account account'])
    expect(rolesOf([source(1, { kind: 'image' }), source(2, { uniqueId: 'bb' })], NOTHING_SAID, '')[0]).toBe(
      'id:bb brief',
    )
    expect(rolesOf([source(1, { kind: 'image' })], NOTHING_SAID, '')).toEqual(['own:1 brief'])
  })
})
