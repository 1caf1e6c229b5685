import { type DeviceDescription, describeDevice } from '@lumbrin/core/device/describe'
import { DeviceError } from '@lumbrin/core/device/errors'
import { type Attached, Multiplexer } from '@lumbrin/core/device/multiplexer'
import type { DevicePart } from '@lumbrin/core/device/parts'
import { actingFor } from '../database/acting.js'
import type { Db } from '../database/connection.js'
import { insertTask } from '../database/copies.js'
import {
  deleteRegularCopy,
  insertRegularCopy,
  type KnownRegularCopy,
  listRegularCopies,
} from '../database/regular-copies.js'
import type { RegularCopyAsked } from '../domain/copies.js'
import { AppError } from '../domain/errors.js'
import type { CopyPlaceId, RegularCopyId } from '../domain/ids.js'
import { requireReadable } from './bay.js'
import { requirePlace, whyAway } from './safe-copies.js'

const PATIENCE_MS = 4000

/**
 * Lets an attached device be copied again and again.
 * @throws AppError where it cannot be read now, or is copied into this place already
 */
export async function addRegularCopy(db: Db, place: CopyPlaceId, asked: RegularCopyAsked): Promise<RegularCopyId> {
  await requirePlace(db, place)
  const { name } = await requireReadable(asked.udid)
  const id = await insertRegularCopy(db, place, asked, name)
  if (id === undefined)
    throw new AppError('conflict', 'This device is copied into this place already. End that first to change it.')
  return id
}

/** Ends regular copies; those that were made stay. @throws AppError('not-found') */
export async function endRegularCopy(db: Db, id: RegularCopyId): Promise<void> {
  if (!(await deleteRegularCopy(db, id))) throw new AppError('not-found', 'These copies were ended already.')
}

/** Queues the copies that are due of devices that are attached. Called again and again. */
export async function followRegularCopies(db: Db): Promise<void> {
  const due = (await listRegularCopies(db)).filter(({ atWork, dueAt }) => !atWork && dueAt.getTime() <= Date.now())
  if (due.length === 0) return
  const mux = new Multiplexer(undefined, PATIENCE_MS)
  const attached = await mux.devices().catch(() => [])
  for (const regular of due) {
    const device = attached.find(({ udid }) => udid === regular.udid)
    if (device) await begin(db, mux, device, regular)
  }
}

async function begin(db: Db, mux: Multiplexer, device: Attached, regular: KnownRegularCopy): Promise<void> {
  const { id, place, udid, part, operator } = regular
  const { path } = await requirePlace(db, place)
  // Where its disk is away it is made when that is back.
  if ((await whyAway(path)) !== null) return
  const described = await describeDevice(mux, device).catch((thrown: unknown) => {
    if (thrown instanceof DeviceError) return undefined
    throw thrown
  })
  if (!described || !gives(described, part)) return
  const about = described.name ?? udid
  await actingFor(operator, () =>
    insertTask(db, place, { kind: 'device', udid, part }, { jobId: null, about, regular: id }),
  )
}

/** Whether a device gives this part in its present state: the media area while it is locked too. */
const gives = ({ state }: DeviceDescription, part: DevicePart): boolean =>
  state === 'ready' || (state === 'locked' && part === 'media')
