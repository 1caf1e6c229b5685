import { buildDemo, demoSize } from './build.js'

/** Makes the demo's sources: `main.ts FOLDER [SIZE]`. */
const [, , folder = '', size] = process.argv
await buildDemo(folder, demoSize(size))
