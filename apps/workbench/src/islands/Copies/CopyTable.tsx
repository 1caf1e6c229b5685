import { CATEGORY_IDS, type CategoryId, definitionOf } from '@lumbrin/core/categories/registry'
import { Moment } from '../../components/times'
import type { ShownCopy } from '../../domain/copies'
import { formatBytes, formatCount, plural } from '../../domain/format'
import type { Wire } from '../../domain/wire'

type Copy = Wire<ShownCopy>

interface Props {
  copies: Copy[]
  chosen: ReadonlySet<string>
  choose: (names: ReadonlySet<string>) => void
  open: (name: string) => void
}

/** Copies device by device, the newest state first. */
export function CopyTable({ copies, ...props }: Props) {
  const devices = [...new Set(copies.map(({ device }) => device))]
  return devices.map((device) => {
    const mine = copies.filter((copy) => copy.device === device).reverse()
    return <DeviceTable key={device} device={device} copies={mine} {...props} />
  })
}

function DeviceTable({ device, copies, chosen, choose, open }: Props & { device: string }) {
  const name = copies[0]?.deviceName ?? 'unnamed device'
  const all = copies.every((copy) => chosen.has(copy.name))
  const set = (names: string[], on: boolean) => {
    const next = new Set(chosen)
    for (const one of names) on ? next.add(one) : next.delete(one)
    choose(next)
  }
  return (
    <section aria-label={name}>
      <h3 className="font-semibold">{name}</h3>
      <p className="mb-1 font-mono text-xs text-soft">{device}</p>
      <div className="overflow-x-auto">
        <table className="table table-dense w-full">
          <thead>
            <tr>
              <th className="w-8">
                <input
                  type="checkbox"
                  aria-label={`All copies of ${name}`}
                  checked={all}
                  onChange={(event) =>
                    set(
                      copies.map((copy) => copy.name),
                      event.target.checked,
                    )
                  }
                />
              </th>
              <th>State of</th>
              <th className="text-right">Files</th>
              <th className="text-right">Size</th>
              <th>Since the one before</th>
              <th className="text-right" title="What removing this copy alone would free">
                Only in it
              </th>
              <th>Checked</th>
              <th>
                <span className="sr-only">Open</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {copies.map((copy) => (
              <tr key={copy.name}>
                <td>
                  <input
                    type="checkbox"
                    aria-label={`The copy of ${copy.takenAt.slice(0, 10)}`}
                    checked={chosen.has(copy.name)}
                    onChange={(event) => set([copy.name], event.target.checked)}
                  />
                </td>
                <td className="whitespace-nowrap">
                  <Moment at={copy.takenAt} />
                  {copy.only && <span className="block text-sm text-soft">{scopeOf(copy.only)}</span>}
                </td>
                <td className="figure text-right">{formatCount(copy.files)}</td>
                <td className="figure text-right">{formatBytes(copy.bytes)}</td>
                <td>
                  <Changes copy={copy} first={copy === copies.at(-1)} />
                </td>
                <td className="figure text-right">{formatBytes(copy.bytesAlone)}</td>
                <td>
                  <Check copy={copy} />
                </td>
                <td className="text-right">
                  <button
                    type="button"
                    className="text-accent underline"
                    aria-label={`Open the copy of ${copy.takenAt.slice(0, 10)} in a job`}
                    onClick={() => open(copy.name)}
                  >
                    Open in a job
                  </button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </section>
  )
}

/** What a copy holds that cannot hold everything: files of other kinds that it lacks are not gone from the device. */
function scopeOf(only: readonly string[]): string {
  const labels = (ids: readonly CategoryId[]) => ids.map((id) => definitionOf(id).label).join(', ')
  const lacking = CATEGORY_IDS.filter((id) => !only.includes(id))
  return only.length < lacking.length
    ? `only ${labels(CATEGORY_IDS.filter((id) => only.includes(id)))}`
    : `without ${labels(lacking)}`
}

function Changes({ copy: { added, changed, gone, missing }, first }: { copy: Copy; first: boolean }) {
  return (
    <>
      {first
        ? 'the first'
        : `${formatCount(added)} new · ${formatCount(changed)} changed · ${formatCount(gone)} no longer in it`}
      {missing > 0 && <span className="block text-partial">{plural(missing, 'content')} missing</span>}
    </>
  )
}

function Check({ copy: { checked } }: { copy: Copy }) {
  if (!checked) return <span className="text-soft">not yet</span>
  if (checked.problems > 0) return <span className="text-partial">{plural(checked.problems, 'fault')}</span>
  return (
    <>
      right, <Moment at={checked.at} />
    </>
  )
}
