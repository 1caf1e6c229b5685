import { benchResidue } from './residue/index.js'

const BENCHES: Record<string, (words: string[]) => Promise<void>> = { residue: benchResidue }

const [name = '', ...words] = process.argv.slice(2)
await BENCHES[name]?.(words)
