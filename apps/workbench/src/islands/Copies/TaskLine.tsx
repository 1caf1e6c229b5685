import { ask } from '../../api/client'
import { Failure } from '../../components/Failure.js'
import { Moment } from '../../components/times'
import { useAct } from '../../components/useAct'
import type { CopyAsked, CopyResult, CopyTask, CopyWork } from '../../domain/copies'
import { formatBytes, formatCount, plural } from '../../domain/format'
import type { Wire } from '../../domain/wire'

type Task = Wire<CopyTask>

/** One piece of work: what, where, how far, what it came to. */
export function TaskLine({ task, path }: { task: Task; path: string }) {
  const { act, failed, busy } = useAct()
  const stop = () => act(() => ask('POST /api/copies/tasks/{task}/stop', { path: { task: task.id } }))
  const again = () =>
    act(() => ask('POST /api/copies/places/{place}/tasks', { path: { place: task.place }, body: askedBy(task.work) }))
  const isRunning = task.state === 'running' || task.state === 'stopping'
  return (
    <li className="py-2">
      <p className="flex flex-wrap items-baseline gap-x-3">
        <span className="font-semibold">{titleOf(task)}</span>
        <span className="text-sm break-all text-soft">{path}</span>
        <span className="ml-auto text-sm text-soft">
          <Moment at={task.endedAt ?? task.createdAt} />
        </span>
      </p>
      {task.state === 'queued' && <p className="text-soft">Waits for what is done before it.</p>}
      {isRunning && (
        <p className="flex items-center gap-3">
          <progress
            className="w-80"
            {...(task.total > 0 ? { max: task.total, value: task.done } : {})}
            aria-label={titleOf(task)}
          />
          <span className="figure text-soft">
            {task.state === 'stopping'
              ? 'stopping…'
              : task.total > 0 && `${formatCount(task.done)} of ${formatCount(task.total)}`}
          </span>
        </p>
      )}
      {(task.state === 'queued' || task.state === 'running') && (
        <button type="button" className="button mt-1" disabled={busy} onClick={stop}>
          Stop
        </button>
      )}
      {task.state === 'stopped' && (
        <p className="text-soft">Stopped. No copy that was whole is harmed; begun again, it goes on.</p>
      )}
      {task.result && <Result result={task.result} />}
      <Failure className="mt-1">{task.error ?? failed}</Failure>
      {(task.state === 'failed' || task.state === 'stopped') && (
        <button type="button" className="button mt-1" disabled={busy} onClick={again}>
          Begin again
        </button>
      )}
    </li>
  )
}

/** The request that led to this work, for “Begin again”. */
const askedBy = (work: Task['work']): CopyAsked =>
  work.kind === 'move' ? { kind: 'move', to: work.to } : (work as Exclude<CopyWork, { kind: 'move' }>)

function titleOf({ work, about }: Task): string {
  switch (work.kind) {
    case 'copy':
    case 'device':
      return `Copy of “${about}”`
    case 'check':
      return `Check of ${plural(work.copies.length, 'copy', 'copies')}`
    case 'remove':
      return `Removal of ${plural(work.copies.length, 'copy', 'copies')}`
    case 'move':
      return `Move to ${work.to}`
  }
}

function Result({ result }: { result: Wire<CopyResult> }) {
  switch (result.kind) {
    case 'copy':
      return (
        <>
          <p>
            {result.made
              ? `Made. ${plural(result.newContents, 'new content')}, ${formatBytes(result.newBytes)}.`
              : result.newContents > 0
                ? `This state was copied before. ${plural(result.newContents, 'content')} that it lacked since, ${formatBytes(result.newBytes)}, ${result.newContents === 1 ? 'is' : 'are'} there again.`
                : 'This state was copied before: nothing was to be done.'}
          </p>
          {result.missing > 0 && (
            <p className="text-partial">
              {plural(result.missing, 'content')} that the source lists could not be read. Made again later, the copy
              takes what is there then.
            </p>
          )}
        </>
      )
    case 'check':
      return <Checked copies={result.copies} />
    case 'remove':
      return (
        <p>
          {plural(result.copies, 'copy', 'copies')} removed, {formatBytes(result.bytes)} freed.
          {!result.swept &&
            ' All contents were kept: another copy of this place is damaged, and what it needs cannot be told.'}
        </p>
      )
    case 'move':
      return <Moved result={result} />
  }
}

function Moved({ result: { copies, found, problems } }: { result: Wire<Extract<CopyResult, { kind: 'move' }>> }) {
  if (found === 0) return <p>Moved: {plural(copies, 'copy', 'copies')}, each read again in the new folder.</p>
  return (
    <div className="notice notice-bad mt-1" role="alert">
      {plural(found, 'thing is', 'things are')} not right in the new folder, and so the old one stays as it was. Both
      are on the list.
      <ProblemList problems={problems} found={found} />
    </div>
  )
}

function ProblemList({ problems, found }: { problems: readonly { name: string; why: string }[]; found: number }) {
  return (
    <ul className="list-disc pl-5 text-sm">
      {problems.slice(0, 5).map((problem) => (
        <li key={`${problem.name} ${problem.why}`} className="break-all">
          {problem.name}: {problem.why}
        </li>
      ))}
      {found > 5 && <li>and {formatCount(found - 5)} more</li>}
    </ul>
  )
}

function Checked({ copies }: { copies: Wire<Extract<CopyResult, { kind: 'check' }>['copies']> }) {
  const bad = copies.filter(({ found }) => found > 0)
  const contents = copies.reduce((sum, { checked }) => sum + checked, 0)
  if (bad.length === 0) return <p>Every sum is right: {plural(contents, 'content')}.</p>
  return (
    <div className="notice notice-bad mt-1" role="alert">
      <ul className="space-y-1">
        {bad.map(({ name, found, problems }) => (
          <li key={name}>
            <span className="font-mono text-sm">{name}</span>: {plural(found, 'content is', 'contents are')} not right.
            <ProblemList problems={problems} found={found} />
          </li>
        ))}
      </ul>
      <p className="mt-2">
        What is wrong was set aside. Make a copy of the same state again while its source is there: what is missing is
        taken anew.
      </p>
    </div>
  )
}
