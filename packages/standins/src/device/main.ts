import { Lockdown } from '@lumbrin/core/device/lockdown'
import { Multiplexer } from '@lumbrin/core/device/multiplexer'
import { pair } from '@lumbrin/core/device/pairing'
import { demoSize } from '../demo/build.js'
import { ControlServer } from './control.js'
import { openFleet, PHONE_UDID } from './fleet.js'
import { StandInMultiplexer } from './multiplexer.js'
import { RecoveryBench } from './recovery.js'

/** Plays the demo's devices: `main.ts FOLDER MULTIPLEXER-PORT CONTROL-PORT [SIZE]`. Says "ready" once it listens. */
const [, , folder = '', muxPort = '0', controlPort = '0', size] = process.argv
const devices = await openFleet(folder, demoSize(size))
const mux = new StandInMultiplexer()
for (const device of devices) mux.add(device)
const control = new ControlServer(devices, new RecoveryBench(devices))
await mux.listen({ host: '127.0.0.1', port: Number(muxPort) })
await control.listen(Number(controlPort))
await trustPhone()
console.log(`ready ${mux.port} ${control.address}`)
/** The phone was on this bench before: it trusts the computer. */
async function trustPhone(): Promise<void> {
  const client = new Multiplexer({ host: '127.0.0.1', port: mux.port })
  const phone = (await client.devices()).find(({ udid }) => udid === PHONE_UDID)
  if (!phone) return
  const lockdown = await Lockdown.open(client, phone)
  await pair(client, phone, lockdown)
  lockdown.close()
}

for (const signal of ['SIGTERM', 'SIGINT'] as const)
  process.once(signal, () => {
    void Promise.all([mux.close(), control.close()]).then(() => process.exit(0))
  })
