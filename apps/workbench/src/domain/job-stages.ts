/** How far the work at a job is, in the order of the work. */
export const JOB_STAGES = [
  'no-source',
  'unread',
  'reading',
  'to-look-through',
  'to-hand-over',
  'handed-over',
  'to-purge',
  'purged',
] as const
export type JobStage = (typeof JOB_STAGES)[number]

/** Stages in which the owner waits for nothing any more. */
export const CLOSED: readonly JobStage[] = ['handed-over', 'to-purge', 'purged']

/** The stage a job is in, with what is to be done next and the view where it is done. */
export const STAGES: Record<JobStage, { label: string; next: string; view: string }> = {
  'no-source': { label: 'waits for a source', next: 'Add a source', view: 'answer' },
  unread: { label: 'to be read', next: 'Read the source', view: 'answer' },
  reading: { label: 'being read', next: 'Watch the read', view: 'answer' },
  'to-look-through': { label: 'to be looked through', next: 'See the answer', view: 'answer' },
  'to-hand-over': { label: 'to be handed over', next: 'Hand over', view: 'handover' },
  'handed-over': { label: 'handed over', next: 'Check the package', view: 'handover' },
  'to-purge': { label: 'to be purged', next: 'Purge', view: 'log' },
  purged: { label: 'purged', next: 'See its record', view: 'log' },
}
