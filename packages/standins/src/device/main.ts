import { ControlServer } from './control.js'
import { openFleet } from './fleet.js'
import { StandInMultiplexer } from './multiplexer.js'
import { RecoveryBench } from './recovery.js'

/** Plays the demo's devices: `main.ts FOLDER MULTIPLEXER-PORT CONTROL-PORT`. Says "ready" once it listens. */
const [, , folder = '', muxPort = '0', controlPort = '0'] = process.argv
const devices = await openFleet(folder)
const mux = new StandInMultiplexer()
for (const device of devices) mux.add(device)
const control = new ControlServer(devices, new RecoveryBench(devices))
await mux.listen({ host: '127.0.0.1', port: Number(muxPort) })
await control.listen(Number(controlPort))
console.log(`ready ${mux.port} ${control.address}`)
for (const signal of ['SIGTERM', 'SIGINT'] as const)
  process.once(signal, () => {
    void Promise.all([mux.close(), control.close()]).then(() => process.exit(0))
  })
