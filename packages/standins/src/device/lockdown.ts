import { randomBytes, randomUUID } from 'node:crypto'
import type { Socket } from 'node:net'
import type { Duplex } from 'node:stream'
import { type Dict, type ListValue, takeList, xmlFrame } from '@lumbrin/core/device/lists'
import { StreamReader } from '@lumbrin/core/device/stream'
import { isDict } from '@lumbrin/core/plist/read'
import type { Pairing, StandInDevice } from './device.js'
import { SERVICES } from './services.js'
import { PUBLIC_VALUES, valuesOf } from './values.js'

type Answer = { [key: string]: ListValue }

const PATIENCE_MS = 600_000

/** The front door of a made-up device. */
export async function answerLockdown(device: StandInDevice, socket: Socket): Promise<void> {
  const door = new FrontDoor(device)
  let reader = new StreamReader(socket, PATIENCE_MS)
  for (;;) {
    const question = await takeList(reader)
    if (!isDict(question)) return void reader.stream.end()
    const answer = door.answer(question)
    await device.send(reader.stream, xmlFrame({ Request: String(question.Request), ...answer }))
    if (answer.EnableSessionSSL === true && door.session)
      reader = new StreamReader(await device.secure(socket, door.session), PATIENCE_MS)
    if (question.Request === 'StopSession') return void reader.stream.end()
    if (question.Request === 'EnterRecovery') device.set({ mode: 'recovery' })
  }
}

class FrontDoor {
  session: Pairing | undefined

  constructor(readonly device: StandInDevice) {}

  answer(question: Dict): Answer {
    switch (question.Request) {
      case 'QueryType':
        return { Type: 'com.apple.mobile.lockdown' }
      case 'GetValue':
        return this.#value(question)
      case 'Pair':
        return this.#pair(question)
      case 'ValidatePair':
        return this.#known(isDict(question.PairRecord) ? question.PairRecord.HostID : null)
          ? {}
          : { Error: 'InvalidHostID' }
      case 'Unpair':
        this.device.pairings.delete(String(isDict(question.PairRecord) ? question.PairRecord.HostID : ''))
        return {}
      case 'StartSession':
        this.session = this.#known(question.HostID)
        return this.session
          ? { SessionID: randomUUID().toUpperCase(), EnableSessionSSL: true }
          : { Error: 'InvalidHostID' }
      case 'StopSession':
        this.session = undefined
        return {}
      case 'StartService':
        return this.#startService(String(question.Service))
      case 'EnterRecovery':
        return this.session ? {} : { Error: 'SessionInactive' }
      default:
        return { Error: 'InvalidRequest' }
    }
  }

  #known(hostId: unknown): Pairing | undefined {
    return this.device.pairings.get(String(hostId))
  }

  #value({ Key, Domain }: Dict): Answer {
    const echo = { ...(typeof Key === 'string' ? { Key } : {}), ...(typeof Domain === 'string' ? { Domain } : {}) }
    const all = valuesOf(this.device, typeof Domain === 'string' ? Domain : '')
    const open = this.session ? all : Object.fromEntries(Object.entries(all).filter(([key]) => PUBLIC_VALUES.has(key)))
    if (typeof Key !== 'string') return { ...echo, Value: open }
    const value = open[Key]
    if (value !== undefined) return { ...echo, Value: value }
    return { ...echo, Error: Key in all ? 'GetProhibited' : 'MissingValue' }
  }

  #pair({ PairRecord }: Dict): Answer {
    const { switches } = this.device
    if (switches.locked) return { Error: 'PasswordProtected' }
    if (switches.trust === 'no') return { Error: 'UserDeniedPairing' }
    if (switches.trust === 'asking') return { Error: 'PairingDialogResponsePending' }
    const record = isDict(PairRecord) ? PairRecord : {}
    const pem = (value: unknown) => (value instanceof Uint8Array ? Buffer.from(value).toString('utf8') : '')
    const deviceCertificate = pem(record.DeviceCertificate)
    const rootCertificate = pem(record.RootCertificate)
    if (!this.device.owns(deviceCertificate) || rootCertificate === '') return { Error: 'InvalidPairRecord' }
    this.device.pairings.set(String(record.HostID), { deviceCertificate, rootCertificate })
    return { EscrowBag: randomBytes(32) }
  }

  #startService(name: string): Answer {
    const { session, device } = this
    if (!session) return { Error: 'SessionInactive' }
    const service = SERVICES[name]
    if (!service || device.switches.erased) return { Error: 'InvalidService' }
    if (service.needsUnlocked && device.switches.locked) return { Error: 'PasswordProtected' }
    const answer = async (socket: Socket) => service.serve(device, (await device.secure(socket, session)) as Duplex)
    return { Service: name, Port: device.listen(answer), EnableServiceSSL: true }
  }
}
