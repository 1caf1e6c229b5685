import { open } from 'node:fs/promises'

/** What was made or renamed in a folder is on the disk when this ends, where the system can say so. */
export async function syncFolder(folder: string): Promise<void> {
  const handle = await open(folder, 'r').catch(() => undefined)
  await handle?.sync().catch(() => {})
  await handle?.close()
}
