/**
 * Stored in reads.state: renaming a value needs a migration. `away`: it waits for its source to come back; `gaps`: it
 * ended, and some of what was listed could not be had.
 */
export const READ_STATES = ['queued', 'running', 'stopping', 'stopped', 'away', 'done', 'gaps', 'failed'] as const
export type ReadState = (typeof READ_STATES)[number]
/** States of a read that has ended by itself. */
export const ENDED: readonly ReadState[] = ['done', 'gaps', 'failed']
