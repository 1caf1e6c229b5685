import { benchBackup } from './backup.js'
import { benchCarving } from './carving.js'
import { benchCategories } from './categories.js'
import { benchCloud } from './cloud.js'
import { benchCopies } from './copies.js'
import { benchDevice } from './device.js'
import { benchFaults } from './faults.js'
import { benchFindings } from './findings.js'
import { benchForeign } from './foreign.js'
import { benchGrid } from './grid.js'
import { benchHandover } from './handover.js'
import { benchKills } from './kills.js'
import { benchLives } from './lives.js'
import { benchLoad } from './load.js'
import { benchMessages } from './messages.js'
import { benchMutants } from './mutants.js'
import { benchPackage } from './packages.js'
import { benchPictures } from './pictures.js'
import { benchRecover } from './residue/compare.js'
import { benchResidue } from './residue/index.js'
import { benchMutate } from './residue/mutate.js'
import { benchWeights } from './residue/weights.js'
import { benchScreens } from './screens.js'
import { benchSite } from './site.js'
import { benchViews } from './views.js'

const BENCHES: Record<string, (words: string[]) => Promise<void>> = {
  residue: benchResidue,
  weights: benchWeights,
  mutate: benchMutate,
  recover: benchRecover,
  backup: benchBackup,
  categories: benchCategories,
  messages: benchMessages,
  findings: benchFindings,
  views: benchViews,
  screens: benchScreens,
  site: benchSite,
  grid: benchGrid,
  handover: benchHandover,
  package: benchPackage,
  copies: benchCopies,
  device: benchDevice,
  cloud: benchCloud,
  pictures: benchPictures,
  carving: benchCarving,
  foreign: benchForeign,
  lives: benchLives,
  load: benchLoad,
  faults: benchFaults,
  kills: benchKills,
  mutants: benchMutants,
}

const [name = '', ...words] = process.argv.slice(2)
const bench = BENCHES[name]
if (!bench) {
  console.error(`Name a bench: ${Object.keys(BENCHES).join(', ')}`)
  process.exit(2)
}
await bench(words)
