import { useState } from 'react'
import { Dialog } from '../../components/Dialog'
import { Failure } from '../../components/Failure.js'
import { useAsk } from '../../components/useAsk'
import { formatBytes } from '../../domain/format'

interface Props {
  /** What the package's own folder will be called below the chosen one. */
  name: string
  /** Bytes that the tray holds. */
  needed: number
  choose: (folder: string) => void
  close: () => void
}

/** Picks a folder on the computer on which the server runs, below the folders that are allowed for handovers. */
export function FolderPicker({ name, needed, choose, close }: Props) {
  const [path, open] = useState<string | null>(null)
  const { answer: list, failed } = useAsk('GET /api/folders', { query: path === null ? {} : { path } })
  const pick = (folder: string) => {
    choose(folder)
    close()
  }
  return (
    <Dialog label="Choose a folder" className="w-[38rem]" close={close}>
      <p className="font-semibold">Choose a folder</p>
      <Failure className="mt-2">{failed}</Failure>
      {list && (
        <>
          <p className="mt-1 min-h-6 font-mono text-sm break-all">{list.path ?? 'Folders for handovers'}</p>
          {list.path !== null && (
            <p className={list.freeBytes < needed ? 'text-partial' : 'text-soft'}>
              {formatBytes(list.freeBytes)} free, {formatBytes(needed)} needed
              {list.freeBytes < needed && ': too little'}
            </p>
          )}
          <ul className="mt-2 max-h-72 min-h-40 overflow-auto border-y border-rule">
            {list.path !== null && (
              <li>
                <button
                  type="button"
                  className="w-full px-2 py-1 text-left hover:bg-wash"
                  onClick={() => open(list.parent)}
                >
                  ↑ {list.parent === null ? 'all folders for handovers' : 'one up'}
                </button>
              </li>
            )}
            {list.folders.map((folder) => (
              <li key={folder.path} className="flex items-center">
                <button
                  type="button"
                  className="w-full px-2 py-1 text-left hover:bg-wash"
                  onClick={() => open(folder.path)}
                >
                  {folder.name}
                </button>
                {folder.isHandover && (
                  <button type="button" className="button whitespace-nowrap" onClick={() => pick(folder.path)}>
                    Add to this handover
                  </button>
                )}
              </li>
            ))}
            {list.folders.length === 0 && <li className="px-2 py-1 text-soft">No folders inside.</li>}
            {list.more && <li className="px-2 py-1 text-soft">There are more; type the path instead.</li>}
          </ul>
        </>
      )}
      <div className="mt-3 flex gap-3">
        <button
          type="button"
          className="button button-main"
          disabled={list?.path == null}
          onClick={() => list?.path && pick(`${list.path.replace(/[\\/]$/, '')}/${name}`)}
        >
          Write into “{name}” here
        </button>
        <button type="button" className="button" onClick={close}>
          Cancel
        </button>
      </div>
    </Dialog>
  )
}
