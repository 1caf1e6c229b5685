import { expect, it } from 'vitest'
import { CutCopies } from '../faults/cut-copies.js'
import { scratchFolder } from '../setup/fixtures.js'

it('copies that are whole stay whole where work is killed or its disk is pulled, and the work is done to its end after', async () => {
  const copies = new CutCopies(scratchFolder())
  await copies.begin()
  // `npm run bench -- copies` cuts at a hundred moments.
  for (const [work, cut] of [
    ['copy', 'pull'],
    ['remove', 'kill'],
    ['move', 'kill'],
  ] as const)
    expect(await copies.cut(work, cut), `${work}, ${cut}`).toEqual([])
})
