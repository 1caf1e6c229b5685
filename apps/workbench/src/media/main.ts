import { messageOf } from '@lumbrin/core/io/errors'
import { pictureFingerprint } from '@lumbrin/core/media/fingerprint'
import { type ShownAs, shownPicture } from '@lumbrin/core/media/picture'

/** What the process for pictures is asked. */
export type MediaTask =
  | { kind: 'shown'; bytes: Uint8Array; edge: number; as: ShownAs }
  | { kind: 'fingerprint'; bytes: Uint8Array }
export type MediaAnswer = { id: number; result: unknown } | { id: number; error: string }

/**
 * Decodes pictures of strangers, in a process of its own: one that is made to exhaust memory or to crash the decoder
 * ends this process and nothing else.
 */
process.on('message', async ({ id, task }: { id: number; task: MediaTask }) => {
  try {
    const result =
      task.kind === 'shown' ? await shownPicture(task.bytes, task.edge, task.as) : await pictureFingerprint(task.bytes)
    process.send?.({ id, result } satisfies MediaAnswer)
  } catch (thrown) {
    process.send?.({ id, error: messageOf(thrown) } satisfies MediaAnswer)
  }
})
process.on('disconnect', () => process.exit(0))
