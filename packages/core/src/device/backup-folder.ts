import { type FileHandle, mkdir, open, readdir, rename, rm, stat } from 'node:fs/promises'
import { dirname, join, normalize, sep } from 'node:path'
import { DeviceError } from './errors.js'

/** What a folder holds, as the device wants to be told. */
export interface ListedChild {
  name: string
  directory: boolean
  size: number
  modifiedAt: Date
}

/**
 * The folder into which a device's backup goes. The device names the paths, and a device is a stranger: none of them
 * leaves the folder.
 */
export class BackupFolder {
  constructor(readonly root: string) {}

  /** @throws DeviceError('garbled') for a path that leaves the folder */
  resolve(path: string): string {
    const clean = normalize(path)
    if (path.includes('\0') || clean === '..' || clean.startsWith(`..${sep}`) || clean.startsWith(sep))
      throw new DeviceError('garbled', 'The device named a file outside of its backup. Nothing was written there.')
    return join(this.root, clean)
  }

  async list(path: string): Promise<ListedChild[]> {
    const folder = this.resolve(path)
    const names = await readdir(folder).catch(() => [])
    const found = await Promise.all(names.map((name) => stat(join(folder, name)).catch(() => undefined)))
    return names.flatMap((name, index) => {
      const one = found[index]
      return one ? [{ name, directory: one.isDirectory(), size: one.size, modifiedAt: one.mtime }] : []
    })
  }

  async makeFolder(path: string): Promise<void> {
    await mkdir(this.resolve(path), { recursive: true })
  }

  async move(from: string, to: string): Promise<void> {
    const target = this.resolve(to)
    await mkdir(dirname(target), { recursive: true })
    await rm(target, { recursive: true, force: true })
    await rename(this.resolve(from), target)
  }

  async remove(path: string): Promise<void> {
    const target = this.resolve(path)
    if (target === normalize(this.root)) throw new DeviceError('garbled')
    await rm(target, { recursive: true, force: true })
  }

  /** A file that takes its name once it is whole. */
  async write(path: string): Promise<IncomingFile> {
    const target = this.resolve(path)
    await mkdir(dirname(target), { recursive: true })
    const part = `${target}.part`
    return new IncomingFile(await open(part, 'w'), part, target)
  }
}

export class IncomingFile {
  constructor(
    readonly handle: FileHandle,
    readonly part: string,
    readonly target: string,
  ) {}

  async add(bytes: Uint8Array): Promise<void> {
    try {
      await this.handle.writeFile(bytes)
    } catch (thrown) {
      const full = (thrown as NodeJS.ErrnoException).code === 'ENOSPC'
      throw full ? new DeviceError('no-space', undefined, { cause: thrown }) : thrown
    }
  }

  async keep(): Promise<void> {
    await this.handle.close()
    await rename(this.part, this.target)
  }

  async discard(): Promise<void> {
    await this.handle.close().catch(() => {})
    await rm(this.part, { force: true })
  }
}
