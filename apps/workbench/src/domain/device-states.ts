import type { DeviceState } from '@lumbrin/core/device/describe'

/** What a state of a device means, what can still be had, and the way on. */
export interface StateWords {
  label: string
  means: string
  stillThere: string
  wayOn: string
}

export const DEVICE_STATES: Record<DeviceState, StateWords> = {
  ready: {
    label: 'ready to be read',
    means: 'It trusts this computer and is unlocked.',
    stillThere: 'Everything that it shows, and what is left of deleted rows.',
    wayOn: 'Go through the checks, then add it to a job.',
  },
  locked: {
    label: 'locked, trusted before',
    means: 'It trusts this computer, but its passcode is asked for.',
    stillThere: 'Pictures and films of the library; everything else once it is unlocked.',
    wayOn:
      'Have the owner unlock it, and leave the screen on. A passcode that nobody knows is no way: look for backups.',
  },
  untrusted: {
    label: 'does not trust this computer',
    means: 'It has never been paired with this computer, or the pairing was removed.',
    stillThere: 'Nothing, until it trusts. Its backups can be read all the same.',
    wayOn: 'Ask for trust, and confirm with the passcode on its screen.',
  },
  asking: {
    label: 'asks whether to trust',
    means: 'The question stands on its screen.',
    stillThere: 'Nothing, until it is answered.',
    wayOn: 'Choose to trust on the device, type its passcode, then ask once more here.',
  },
  refused: {
    label: 'trust was refused',
    means: 'Somebody chose not to trust on its screen.',
    stillThere: 'Nothing. Its backups can be read all the same.',
    wayOn: 'Speak with the owner, then ask again.',
  },
  forgotten: {
    label: 'has forgotten this computer',
    means: 'The pairing that this computer keeps is not valid any more; or it is another device than it says.',
    stillThere: 'What was received before. Nothing new, until it trusts again.',
    wayOn: 'If the owner removed the pairing, ask for trust anew.',
  },
  silent: {
    label: 'does not answer',
    means: 'It is on the cable and says nothing: stuck at start-up, or a bad cable.',
    stillThere: 'What is on it is not lost by that. Its backups can be read meanwhile.',
    wayOn: 'Try another cable. If it stays so, bring it into the recovery state with its buttons; it then shows below.',
  },
  erased: {
    label: 'was erased',
    means: 'It was reset and waits to be set up. The keys of what was on it are gone.',
    stillThere: 'Nothing: what the keys locked cannot be read by anybody.',
    wayOn: 'Only backups on a computer or in the cloud can help. Do not set it up from one before they were read.',
  },
  recovery: {
    label: 'waits in the recovery state',
    means: 'It does not start, and waits for a system.',
    stillThere: 'What is on it stays, as long as nothing is installed that erases it.',
    wayOn: 'Let it start the ordinary way first. If it comes back here, install the system and keep what is there.',
  },
}
