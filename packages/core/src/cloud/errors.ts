/** What can go wrong between this computer and the cloud service. The list is closed: each has its own way out. */
export type CloudErrorCode =
  | 'unreachable'
  | 'wrong-password'
  | 'too-many-tries'
  | 'wrong-code'
  | 'code-expired'
  | 'signed-out'
  | 'extra-protection'
  | 'busy'
  | 'gone'
  | 'damaged'
  | 'stopped'

const MESSAGES: Record<CloudErrorCode, string> = {
  unreachable: 'The cloud service does not answer. What was downloaded is kept; go on when the line is there again.',
  'wrong-password': 'Account or password is wrong. Neither was kept.',
  'too-many-tries': 'Too many tries: the service refuses this account for a while.',
  'wrong-code': 'The code is wrong.',
  'code-expired': 'The code is not valid any more. Sign in again to get a new one.',
  'signed-out': 'The session with the cloud service has ended. Sign in again; what was downloaded is kept.',
  'extra-protection':
    'This account has extra protection: its backups are locked with keys that only its own devices have. The service cannot give them; read one of the devices, or a backup on a computer.',
  busy: 'The cloud service asks to slow down and did not recover. What was downloaded is kept; go on later.',
  gone: 'The cloud service does not have this any more.',
  damaged:
    'What the cloud service sent is damaged, several times over: its checksum is wrong. The damaged part was not kept.',
  stopped: 'Stopped. What was downloaded is kept.',
}

/** Why the cloud service does not give what was asked for. The message is for the technician. */
export class CloudError extends Error {
  override readonly name = 'CloudError'
  constructor(
    readonly code: CloudErrorCode,
    message: string = MESSAGES[code],
    options?: ErrorOptions,
  ) {
    super(message, options)
  }
}
