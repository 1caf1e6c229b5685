import { demoSize } from '../demo/build.js'
import { demoAccounts, openCloudData } from './demo.js'
import { CloudService } from './service.js'

/** Plays the demo's cloud service: `main.ts FOLDER PORT [SIZE]`. Says "ready" once it listens. */
const [, , folder = '', port = '0', size] = process.argv
const service = new CloudService(demoAccounts(), await openCloudData(folder, demoSize(size)))
await service.listen(Number(port))
console.log(`ready ${service.address}`)
for (const signal of ['SIGTERM', 'SIGINT'] as const)
  process.once(signal, () => void service.close().then(() => process.exit(0)))
