import { DeviceError } from '@lumbrin/core/device/errors'
import { RecoveryChannel } from '@lumbrin/core/device/recovery'
import { messageOf } from '@lumbrin/core/io/errors'
import { readConfig } from '../config.js'
import type { Installing, RecoveringDevice } from '../domain/bay.js'
import { AppError } from '../domain/errors.js'

const running = new Map<string, Installing>()

function channel(): RecoveryChannel {
  const { recoveryChannel } = readConfig()
  if (!recoveryChannel)
    throw new AppError('conflict', 'Devices that do not start cannot be reached from this computer.')
  return new RecoveryChannel(recoveryChannel)
}

/** Devices that wait for orders; none where there is no channel to them. */
export async function recoveringDevices(): Promise<RecoveringDevice[]> {
  if (!readConfig().recoveryChannel) return []
  const waiting = await channel()
    .waiting()
    .catch((thrown: unknown) => {
      if (thrown instanceof DeviceError) return []
      throw thrown
    })
  return Promise.all(
    waiting.map(async (device) => ({
      ...device,
      images: await channel().images(device.productType),
      installing: running.get(device.udid) ?? null,
    })),
  )
}

/** Starts a device the ordinary way. Nothing on it changes. */
export async function leaveRecovery(udid: string): Promise<void> {
  await channel().leave(udid)
}

/**
 * Begins to install a system. Erasing is refused while it has not been tried to keep what is there, and needs the
 * device's name typed.
 * @throws AppError
 */
export async function beginInstall(
  udid: string,
  imageId: string,
  keep: boolean,
  typedName: string | undefined,
): Promise<void> {
  if (running.get(udid) && !ended(running.get(udid)))
    throw new AppError('conflict', 'A system is being installed already.')
  const device = (await recoveringDevices()).find((one) => one.udid === udid)
  const image = device?.images.find((one) => one.id === imageId)
  if (!device || !image) throw new AppError('not-found', 'This device, or this system for it, is not there any more.')
  if (!keep) requireErasable(device, typedName)
  const state: Installing = { phase: 'fetching', share: 0, message: null }
  running.set(udid, state)
  channel()
    .install(udid, image, keep, (phase, share) => Object.assign(state, { phase, share }), new AbortController().signal)
    .then(() => {
      if (keep) tried.add(udid)
      Object.assign(state, { phase: 'done', share: 1 })
    })
    .catch((thrown: unknown) => {
      // A system that the device did not take was tried as well; one that never got there was not.
      if (keep && state.phase === 'installing') tried.add(udid)
      Object.assign(state, { phase: 'failed', message: messageOf(thrown) })
    })
}

/** Devices on which it was tried to install a system and keep what was there. */
const tried = new Set<string>()

function requireErasable(device: RecoveringDevice, typedName: string | undefined): void {
  if (!tried.has(device.udid))
    throw new AppError(
      'conflict',
      'There is a better route: install the system and keep what is on the device. Erasing is possible once that has been tried.',
    )
  if (typedName !== device.name)
    throw new AppError('invalid', 'Type the name of the device exactly as it stands here. Nothing was erased.')
}

const ended = (state: Installing | undefined) => state?.phase === 'done' || state?.phase === 'failed'
