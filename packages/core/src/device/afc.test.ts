import { Duplex } from 'node:stream'
import { setTimeout as sleep } from 'node:timers/promises'
import { expect, it } from 'vitest'
import { AfcClient } from './afc.js'

// A rejection that nobody looks at ends the process; the runner of tests counts it as a failure of its own.
it('ends every question with the loss of the device, also those that wait behind another answer', async () => {
  // Its far end takes nothing more, while what it sent before may still be read.
  const cable = new Duplex({ read() {}, write: (_chunk, _encoding, done) => done() })
  const client = new AfcClient(cable)
  const first = client.stat('/a')
  cable.write = ((_bytes: Uint8Array, done: (error: Error) => void) => {
    process.nextTick(done, new Error('ended by the other party'))
    return false
  }) as typeof cable.write
  const asked = [first, ...['/b', '/c'].map((path) => client.stat(path))]
  const ended = Promise.allSettled(asked)
  await sleep(20)
  cable.destroy()
  expect((await ended).map(({ status }) => status)).toEqual(['rejected', 'rejected', 'rejected'])
})
