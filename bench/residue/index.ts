import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { makeCase } from '../../tests/residue/generate.js'
import { type Score, scoreCase } from '../../tests/residue/score.js'

/** Seeds up to here were looked at while the engine was made; those behind are for checking only. */
export const TUNING_SEEDS = 60

/** Scores the residue engine over databases made by real SQLite: `npm run bench -- residue [first] [last]`. */
export async function benchResidue(words: string[]): Promise<void> {
  const [first = 1, last = TUNING_SEEDS] = words.filter((word) => /^\d+$/.test(word)).map(Number)
  const folder = mkdtempSync(join(tmpdir(), 'lumbrin-bench-'))
  const sum: Record<string, number> = {}
  try {
    for (let seed = first; seed <= last; seed++) {
      const made = makeCase(seed, folder)
      const score = scoreCase(made)
      for (const [name, value] of Object.entries(score))
        if (typeof value === 'number') sum[name] = (sum[name] ?? 0) + value
      if (words.includes('--verbose')) tell(seed, made.name, score)
      for (const path of Object.values(made.files)) rmSync(path)
    }
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
  const share = (part = 0, all = 0) => (all === 0 ? 'none' : `${((100 * part) / all).toFixed(2)} %`)
  console.log(`seeds ${first} to ${last}: ${sum.whole} versions survive whole`)
  console.log(
    `come back with every value right  ${sum.back} (${share(sum.back, sum.whole)}), with their table ${share(sum.named, sum.back)}, standing right ${share(sum.standingRight, sum.back)}`,
  )
  console.log(
    `rows reported ${sum.reported}: with a wrong value ${sum.wrong}, invented ${sum.invented}, live ${sum.liveReported}, doubled ${sum.doubled}`,
  )
  console.log(`of ${sum.sure} with a confidence of 0.8 and more ${sum.sureWrong} wrong`)
}

function tell(seed: number, name: string, score: Score): void {
  const { examples, ...numbers } = score
  console.log(`${seed} (${name}): ${JSON.stringify(numbers)}`)
  const kinds = new Map<string, number>()
  for (const example of examples) {
    const kind = example.slice(0, example.indexOf(':'))
    const count = (kinds.get(kind) ?? 0) + 1
    kinds.set(kind, count)
    if (count <= (Number(process.env.SHOW) || 3)) console.log(`   ${example}`)
  }
}
