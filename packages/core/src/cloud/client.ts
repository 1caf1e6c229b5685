import { z } from 'zod'
import { digest } from '../io/hash.js'
import type { CloudLine } from './session.js'
import {
  AccountInfo,
  type ArchiveInfo,
  ArchiveItem,
  Archives,
  type Chunk,
  type CloudDevice,
  CloudFile,
  DeletedFile,
  Devices,
  LibraryPhoto,
} from './wire.js'

/** What an account has in the cloud. */
export class CloudClient {
  constructor(readonly line: CloudLine) {}

  account(): Promise<AccountInfo> {
    return this.line.json('/account', AccountInfo)
  }

  /** Devices with their snapshots, newest last. @throws CloudError('extra-protection') */
  async devices(): Promise<CloudDevice[]> {
    return (await this.line.json('/devices', Devices)).devices
  }

  snapshotFiles(id: string): AsyncGenerator<CloudFile> {
    return this.#pages(`/snapshots/${encodeURIComponent(id)}/files`, 'files', CloudFile)
  }

  photos() {
    return this.#pages('/library/photos', 'photos', LibraryPhoto)
  }

  deletedFiles() {
    return this.#pages('/library/deleted-files', 'files', DeletedFile)
  }

  async archives(): Promise<ArchiveInfo[]> {
    return (await this.line.json('/library/archives', Archives)).archives
  }

  archiveItems(id: string) {
    return this.#pages(`/library/archives/${encodeURIComponent(id)}`, 'items', ArchiveItem)
  }

  /** A piece of a file. It is asked for again where its bytes are not what its name says. */
  chunk({ sha256, size }: Chunk): Promise<Uint8Array> {
    return this.line.bytes(
      `/chunks/${sha256}`,
      (bytes) => bytes.byteLength === size && digest('sha256', bytes) === sha256,
    )
  }

  async *#pages<T extends z.ZodType>(path: string, name: string, one: T): AsyncGenerator<z.infer<T>> {
    const page = z.object({ [name]: z.array(one), next: z.nullable(z.string()) })
    // A cursor that comes again would go round for ever.
    const seen = new Set<string>()
    for (let cursor: string | null = ''; cursor !== null && !seen.has(cursor); ) {
      seen.add(cursor)
      const words = cursor ? `?cursor=${encodeURIComponent(cursor)}` : ''
      const answer = (await this.line.json(`${path}${words}`, page)) as { next: string | null }
      yield* (answer as unknown as Record<string, z.infer<T>[]>)[name] ?? []
      cursor = answer.next
    }
  }
}
