import { buildDemo, FULL_DEMO, LARGE_DEMO } from './build.js'

/** Makes the demo's sources: `main.ts FOLDER [large]`. */
const [, , folder = '', variant] = process.argv
await buildDemo(folder, variant === 'large' ? LARGE_DEMO : FULL_DEMO)
