import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { WEIGHTS } from '../../packages/core/src/sqlite/residue/evidence/weights.js'
import { type Case, makeCase } from '../../tests/residue/generate.js'
import { scoreCase } from '../../tests/residue/score.js'

/**
 * What each weight of the residue engine does: rows that come back right, and wrong ones, when it is halved and doubled:
 * `npm run bench -- weights [first] [last]`.
 */
export async function benchWeights(words: string[]): Promise<void> {
  const [first = 1, last = 40] = words.map(Number)
  const folder = mkdtempSync(join(tmpdir(), 'lumbrin-bench-'))
  try {
    const cases: Case[] = []
    for (let seed = first; seed <= last; seed++) cases.push(makeCase(seed, folder))
    const usual = scoreAll(cases)
    console.log(`seeds ${first} to ${last}, ${usual.whole} versions survive whole; as it is: ${told(usual)}`)
    for (const [name, weight] of Object.entries(WEIGHTS)) {
      const varied = [weight / 2, weight * 2].map((value) => withWeight(name, value, () => scoreAll(cases)))
      const [half, double] = varied.map((score) => (told(score) === told(usual) ? '=' : told(score)))
      console.log(`${name} ${weight}: halved ${half}; doubled ${double}`)
    }
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
}

interface Sum {
  whole: number
  back: number
  wrong: number
}

const told = ({ whole, back, wrong }: Sum) => `${((100 * back) / whole).toFixed(2)} % / ${wrong}`

function scoreAll(cases: readonly Case[]): Sum {
  const sum = { whole: 0, back: 0, wrong: 0 }
  for (const one of cases) {
    const { whole, back, wrong, invented } = scoreCase(one)
    sum.whole += whole
    sum.back += back
    sum.wrong += wrong + invented
  }
  return sum
}

/** The engine never changes its weights; this bench does, one at a time. */
function withWeight<T>(name: string, value: number, work: () => T): T {
  const weights: Record<string, number> = WEIGHTS
  const before = weights[name] ?? 0
  weights[name] = value
  try {
    return work()
  } finally {
    weights[name] = before
  }
}
