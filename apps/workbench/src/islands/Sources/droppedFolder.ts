/** A file with its place below a folder, with "/" between its parts. */
export interface FileAt {
  path: string
  file: File
}

export interface BroughtFolder {
  name: string
  files: FileAt[]
}

/** A folder that was chosen in a file dialog; undefined: it holds nothing. */
export function chosenFolder(files: readonly File[]): BroughtFolder | undefined {
  const name = files[0]?.webkitRelativePath.split('/', 1)[0]
  if (!name) return undefined
  return { name, files: files.map((file) => ({ path: file.webkitRelativePath.slice(name.length + 1), file })) }
}

// A backup has two or three levels below its folder.
const MOST_DEEP = 20
const MOST_FILES = 2_000_000

/**
 * The folder that was dropped on the page, read through (File and Directory Entries API, W3C); undefined: what was dropped
 * is no folder. @throws Error where it holds more than any backup
 */
export async function droppedFolder({ items }: DataTransfer): Promise<BroughtFolder | undefined> {
  // The list is emptied as soon as the event is over.
  const [entry] = [...items].map((item) => item.webkitGetAsEntry()).filter((one) => one?.isDirectory === true)
  if (!entry) return undefined
  const files: FileAt[] = []
  for await (const file of filesBelow(entry as FileSystemDirectoryEntry, '', 0)) {
    files.push(file)
    if (files.length > MOST_FILES) throw new Error(`The folder holds more than ${MOST_FILES} files.`)
  }
  return { name: entry.name, files }
}

async function* filesBelow(folder: FileSystemDirectoryEntry, at: string, depth: number): AsyncGenerator<FileAt> {
  if (depth > MOST_DEEP) return
  const reader = folder.createReader()
  for (;;) {
    // It gives some at a time, and none when it has given all.
    const entries = await new Promise<FileSystemEntry[]>((resolve, reject) => reader.readEntries(resolve, reject))
    if (entries.length === 0) return
    for (const entry of entries) {
      const path = at === '' ? entry.name : `${at}/${entry.name}`
      if (entry.isDirectory) yield* filesBelow(entry as FileSystemDirectoryEntry, path, depth + 1)
      else if (entry.isFile)
        yield {
          path,
          file: await new Promise<File>((resolve, reject) => (entry as FileSystemFileEntry).file(resolve, reject)),
        }
    }
  }
}
