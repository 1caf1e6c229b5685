import { AccountInfo, ArchiveInfo, CloudDevice } from '@lumbrin/core/cloud/wire'
import { z } from 'zod'
import { time } from './time.js'

const snapshot = CloudDevice.shape.snapshots.element.extend({ takenAt: time })

/** How a job stands to the cloud account of its owner. */
export const cloudState = z.discriminatedUnion('step', [
  /** No service is set up. */
  z.strictObject({ step: z.literal('none') }),
  z.strictObject({ step: z.literal('out') }),
  z.strictObject({ step: z.literal('code'), account: z.string(), sentTo: z.string() }),
  z.strictObject({
    step: z.literal('in'),
    account: AccountInfo,
    devices: z.array(CloudDevice.extend({ snapshots: z.array(snapshot) })),
    archives: z.array(ArchiveInfo.extend({ takenAt: time })),
    problem: z.string().nullable(),
  }),
])

export type CloudState = z.output<typeof cloudState>
