import { modelName } from '@lumbrin/core/backup/models'
import { BACKUP_FITS, type BackupFit } from '@lumbrin/core/findings/backup-fit'
import { createColumnHelper, useTable } from '@tanstack/react-table'
import { useVirtualizer } from '@tanstack/react-virtual'
import { useMemo, useRef } from 'react'
import { Scroller } from '../../components/Scroller'
import { ariaSort, Gap, SortButton, sortable } from '../../components/sortedTables'
import { Moment, useTimes } from '../../components/times'
import { formatBytes, plural } from '../../domain/format'
import type { Found } from '../Sources/useBackupSearch'

interface Line {
  backup: Found
  fit: BackupFit
}

const column = createColumnHelper<typeof sortable, Line>()
const columns = column.columns([
  column.accessor(({ backup }) => backup.deviceName ?? '', { id: 'device', header: 'Device', sortFn: 'text' }),
  column.accessor(({ backup }) => backup.takenAt ?? '', { id: 'takenAt', header: 'State of', sortFn: 'basic' }),
  column.accessor(({ fit }) => BACKUP_FITS.indexOf(fit), { id: 'fit', header: 'For this job', sortFn: 'basic' }),
  column.accessor(({ backup }) => backup.osVersion ?? '', { id: 'system', header: 'System', sortFn: 'text' }),
  column.accessor(({ backup }) => backup.bytes, { id: 'size', header: 'Size', sortFn: 'basic' }),
  column.accessor(({ backup }) => backup.path, { id: 'path', header: 'Folder', sortFn: 'text' }),
])

const WIDTHS: Record<string, string> = {
  device: 'w-44',
  takenAt: 'w-36',
  fit: 'w-48',
  system: 'w-20',
  size: 'w-28',
}

const ROW = 54

interface Props {
  found: readonly Found[]
  fits: ReadonlyMap<string, BackupFit>
  chosen: ReadonlySet<string>
  choose: (paths: ReadonlySet<string>) => void
}

/** Backups in rows, what fits best first; those in the job stand there too, and cannot be chosen again. */
export function BackupTable({ found, fits, chosen, choose }: Props) {
  const box = useRef<HTMLDivElement>(null)
  const data = useMemo(
    () => found.map((backup): Line => ({ backup, fit: fits.get(backup.path) ?? 'undated' })),
    [found, fits],
  )
  const table = useTable({
    features: sortable,
    columns,
    data,
    // Another press of a column's head turns it round.
    enableSortingRemoval: false,
    initialState: {
      sorting: [
        { id: 'fit', desc: false },
        { id: 'takenAt', desc: true },
      ],
    },
  })
  const { rows } = table.getRowModel()
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => box.current,
    estimateSize: () => ROW,
    overscan: 10,
  })
  const free = data.filter(({ fit }) => fit !== 'added')
  const set = (paths: readonly string[], on: boolean) => {
    const next = new Set(chosen)
    for (const path of paths) on ? next.add(path) : next.delete(path)
    choose(next)
  }
  const shown = virtual.getVirtualItems()
  return (
    <Scroller ref={box} label="Table of backups" className="min-h-0 flex-1 overflow-auto max-lg:max-h-[70vh]">
      <table className="table table-dense min-w-[56rem] table-fixed">
        <thead className="sticky top-0 z-10 bg-paper">
          {table.getHeaderGroups().map((group) => (
            <tr key={group.id}>
              <th className="w-9">
                <input
                  type="checkbox"
                  aria-label="Choose all that are shown"
                  disabled={free.length === 0}
                  checked={free.length > 0 && free.every(({ backup }) => chosen.has(backup.path))}
                  onChange={(event) =>
                    set(
                      free.map(({ backup }) => backup.path),
                      event.target.checked,
                    )
                  }
                />
              </th>
              {group.headers.map((header) => (
                <th
                  key={header.id}
                  className={WIDTHS[header.column.id]}
                  aria-sort={ariaSort(header.column.getIsSorted())}
                >
                  <SortButton sorted={header.column.getIsSorted()} toggle={header.column.getToggleSortingHandler()}>
                    <table.FlexRender header={header} />
                  </SortButton>
                </th>
              ))}
            </tr>
          ))}
        </thead>
        <tbody>
          <Gap height={shown[0]?.start ?? 0} columns={columns.length + 1} />
          {shown.map(({ index }) => {
            const line = rows[index]?.original
            return (
              line && (
                <BackupRow
                  key={line.backup.path}
                  {...line}
                  chosen={chosen.has(line.backup.path)}
                  choose={(on) => set([line.backup.path], on)}
                />
              )
            )
          })}
          <Gap height={virtual.getTotalSize() - (shown.at(-1)?.end ?? 0)} columns={columns.length + 1} />
        </tbody>
      </table>
    </Scroller>
  )
}

const FIT_WORDS: Record<BackupFit, string> = {
  best: 'fits best: the newest from before the loss',
  before: 'from before the loss',
  within: 'from within the loss',
  undated: 'may help',
  after: 'from after the loss: for what is left over',
  copy: 'the same state lies in another folder',
  unable: 'never holds what is sought',
  other: 'of another device',
  added: 'in this job',
}
const FIT_STYLE: Partial<Record<BackupFit, string>> = {
  best: 'font-semibold text-accent',
  copy: 'text-soft',
  unable: 'text-soft',
  other: 'text-soft',
  added: 'text-soft',
}

function BackupRow({ backup, fit, chosen, choose }: Line & { chosen: boolean; choose: (on: boolean) => void }) {
  const { time } = useTimes()
  const name = backup.deviceName ?? 'Unnamed device'
  return (
    <tr className="hover:bg-sunk">
      <td>
        {fit !== 'added' && (
          <input
            type="checkbox"
            aria-label={`${name}, state of ${time(backup.takenAt)}, ${backup.path}`}
            checked={chosen}
            onChange={(event) => choose(event.target.checked)}
          />
        )}
      </td>
      <td>
        <span className="private block truncate" title={name}>
          {name}
        </span>
        <span className="block truncate text-sm text-soft">{modelName(backup.productType) ?? 'unknown model'}</span>
      </td>
      <td className="whitespace-nowrap">
        <Moment at={backup.takenAt} />
      </td>
      <td className={`text-sm ${FIT_STYLE[fit] ?? ''}`}>{FIT_WORDS[fit]}</td>
      <td>
        {backup.osVersion ?? '–'}
        <span className="block text-sm text-soft">{backup.encrypted ? 'locked' : 'open'}</span>
      </td>
      <td className="whitespace-nowrap">
        {formatBytes(backup.bytes)}
        {backup.complete ? (
          <span className="block text-sm text-soft">{plural(backup.files, 'file')}</span>
        ) : (
          <span className="block text-sm text-partial">not whole</span>
        )}
      </td>
      <td className="truncate font-mono text-xs text-soft" title={backup.path}>
        {backup.path}
      </td>
    </tr>
  )
}
