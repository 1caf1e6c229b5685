import { mkdirSync, readdirSync, realpathSync } from 'node:fs'
import { join } from 'node:path'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { BagWriter } from '../../packages/core/src/export/bag.js'
import { Doors, FILE_FAULTS } from '../faults/doors.js'
import { scratchFolder } from '../setup/fixtures.js'

const doors = new Doors()
beforeAll(() => doors.install())
afterAll(() => doors.remove())

it.each(FILE_FAULTS.filter((fault) => fault !== 'short'))(
  'a package that meets %s at its beginning, at whichever call, leaves nothing beside it',
  async (fault) => {
    const top = realpathSync(scratchFolder())
    mkdirSync(join(top, 'handover'))
    const begin = async (n: number) => {
      doors.arm([top], fault, n)
      const bag = await BagWriter.create(join(top, 'handover/package'), { id: 'one' }).catch(() => undefined)
      const { calls, met } = doors.disarm()
      return { bag, calls, met }
    }
    const whole = await begin(0)
    expect(whole.calls).toBeGreaterThan(5)
    await whole.bag?.discard()
    for (let n = 1; n <= whole.calls; n++) {
      const { bag, met } = await begin(n)
      if (bag) await bag.discard()
      expect({ n, met, left: readdirSync(join(top, 'handover')) }).toEqual({ n, met: expect.any(String), left: [] })
    }
  },
)
