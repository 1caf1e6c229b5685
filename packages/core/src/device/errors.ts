/** What can go wrong between this computer and a device. The list is closed: the Bay has a way out for each. */
export const DEVICE_ERROR_CODES = [
  'no-multiplexer',
  'unplugged',
  'silent',
  'garbled',
  'not-trusted',
  'trust-pending',
  'trust-refused',
  'locked',
  'forgotten',
  'no-service',
  'impostor',
  'no-space',
  'refused',
] as const
export type DeviceErrorCode = (typeof DEVICE_ERROR_CODES)[number]

/** Why a device does not do what it was asked. The message is for the technician: what happened and what to do. */
export class DeviceError extends Error {
  override readonly name = 'DeviceError'
  constructor(
    readonly code: DeviceErrorCode,
    message: string = DEVICE_MESSAGES[code],
    options?: ErrorOptions,
  ) {
    super(message, options)
  }
}

const DEVICE_MESSAGES: Record<DeviceErrorCode, string> = {
  'no-multiplexer':
    'The program that shares attached devices does not run on this computer. Start it, then look again.',
  unplugged: 'The device went away. What was received is kept; plug it in again, and the read goes on where it was.',
  silent: 'The device does not answer. Check the cable, then unplug the device and plug it in again.',
  garbled:
    'The device answered with something that is no answer. Unplug it and plug it in again; what was received is kept.',
  'not-trusted': 'The device does not trust this computer yet. Ask it to, and confirm on its screen.',
  'trust-pending': 'The device asks on its screen whether to trust this computer. Confirm there.',
  'trust-refused': 'Trust was refused on the device. Ask again, and choose to trust this computer on its screen.',
  locked: 'The device is locked. Unlock it with its passcode and leave the screen on.',
  forgotten: 'The device has forgotten this computer. Ask it for trust again.',
  'no-service': 'The device does not offer what is needed for this in its present state.',
  impostor:
    'The device shows another certificate than the one it was paired with. Nothing was read. Pair it anew if that is expected.',
  'no-space': 'There is no room left on this computer. Make some; the read goes on where it was.',
  refused: 'The device refused this request.',
}

/** The device's own error names and what they mean to us (names as the reference client knows them). */
const BY_NAME: Record<string, DeviceErrorCode> = {
  PasswordProtected: 'locked',
  EscrowLocked: 'locked',
  UserDeniedPairing: 'trust-refused',
  PairingDialogResponsePending: 'trust-pending',
  InvalidHostID: 'forgotten',
  InvalidPairRecord: 'forgotten',
  InvalidService: 'no-service',
  ServiceLimit: 'no-service',
}

/** An error that the device named. */
export function namedError(name: string): DeviceError {
  const code = BY_NAME[name]
  return code ? new DeviceError(code) : new DeviceError('refused', `The device refused this request: ${name}.`)
}
