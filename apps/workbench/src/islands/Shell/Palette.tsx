import { CATEGORY_IDS } from '@lumbrin/core/categories/registry'
import { Command } from 'cmdk'
import { useState } from 'react'
import { useHotkeys } from 'react-hotkeys-hook'
import { switchDiscreet, switchTheme } from '../../components/appearance'
import { Dialog } from '../../components/Dialog'
import { Island } from '../../components/Island'
import { useAsk } from '../../components/useAsk'
import { CATEGORY_LABELS } from '../../domain/labels'

interface Job {
  id: number
  number: string
  owner: string
}

// The most urgent come first; all others stand in the queue, with a search of its own.
const MOST_JOBS = 50

const VIEWS = ['answer', 'sources', 'findings', 'people', 'tray', 'handover', 'log'] as const

const SHORTCUTS: [keys: string, what: string][] = [
  ['Ctrl K or ⌘ K', 'all commands'],
  ['?', 'this sheet'],
  ['B', 'discreet mode on and off'],
  ['V, held', 'show what discreet mode blurs'],
  ['/', 'search in Jobs and in Findings'],
  ['N', 'in Answer: carry the next step out'],
  ['M', 'in Answer: put all matches in the tray'],
  ['H', 'in Answer: hand over'],
  ['W', 'in Handover: write the package'],
  ['arrows, Home, End', 'move in a list'],
  ['Space', 'into the tray, or out'],
  ['Ctrl Z or ⌘ Z', 'undo the last change of the tray'],
  ['Enter', 'open large'],
  ['Esc', 'close'],
]

/** Every place and switch by its name, and the sheet of shortcuts. */
export const Palette = () => (
  <Island>
    <Opened />
  </Island>
)

function Opened() {
  const [open, setOpen] = useState<'commands' | 'shortcuts' | null>(null)
  const { answer: jobs } = useAsk('GET /api/jobs', {}, { when: open === 'commands' })
  useHotkeys('mod+k', () => setOpen('commands'), { preventDefault: true, enableOnFormTags: true })
  useHotkeys('?', () => setOpen('shortcuts'), { useKey: true })
  useHotkeys('b', switchDiscreet)
  useHotkeys('v', ({ type }) => hold(type === 'keydown'), { keydown: true, keyup: true })
  return (
    <>
      <button type="button" className="text-soft hover:text-ink" onClick={() => setOpen('commands')}>
        Commands <kbd className="ml-1 rounded border border-rule px-1 font-mono text-xs">Ctrl K</kbd>
      </button>
      {open && (
        <Dialog
          label={open === 'commands' ? 'Commands' : 'Shortcuts'}
          close={() => setOpen(null)}
          className="mb-auto mt-[12vh] w-[34rem] !p-0"
        >
          {open === 'commands' ? <Commands jobs={jobs ?? []} shortcuts={() => setOpen('shortcuts')} /> : <Shortcuts />}
        </Dialog>
      )}
    </>
  )
}

/** While it is held, what discreet mode blurs is shown. */
function hold(held: boolean): void {
  if (held) document.documentElement.dataset.held = 'yes'
  else delete document.documentElement.dataset.held
}

function Commands({ jobs, shortcuts }: { jobs: Job[]; shortcuts: () => void }) {
  const go = (address: string) => () => location.assign(address)
  const here = /^\/jobs\/(\d+)/.exec(location.pathname)?.[1]
  return (
    <Command label="Commands" className="flex max-h-[60vh] flex-col">
      <Command.Input
        placeholder="Go to, or do"
        className="border-b border-rule bg-raised px-4 py-3 outline-none placeholder:text-soft"
      />
      <Command.List className="overflow-auto p-2">
        <Command.Empty className="p-3 text-soft">Nothing is called that.</Command.Empty>
        {here && (
          <Group heading="This job">
            {VIEWS.map((view) => (
              <Item key={view} act={go(`/jobs/${here}/${view}`)}>
                {view[0]?.toUpperCase()}
                {view.slice(1)}
              </Item>
            ))}
            <Item act={go(`/jobs/${here}/findings?matching=true`)}>Findings that match the brief</Item>
            {CATEGORY_IDS.map((id) => (
              <Item key={id} act={go(`/jobs/${here}/findings?category=${id}`)}>
                Findings: {CATEGORY_LABELS[id]}
              </Item>
            ))}
          </Group>
        )}
        <Group heading="Everywhere">
          <Item act={go('/')}>Jobs</Item>
          <Item act={go('/jobs/new')}>New job</Item>
          <Item act={go('/bay')}>Bay: attached devices</Item>
          <Item act={go('/copies')}>Copies: states of devices that are kept</Item>
          <Item act={go('/settings')}>Settings</Item>
          <Item act={go('/profiles')}>Mapping profiles</Item>
          <Item act={switchDiscreet}>Discreet mode on and off</Item>
          <Item act={switchTheme}>Light and dark</Item>
          <Item act={shortcuts}>Shortcuts</Item>
        </Group>
        {jobs.length > 0 && (
          <Group heading="Jobs">
            {jobs.slice(0, MOST_JOBS).map((job) => (
              <Item key={job.id} act={go(`/jobs/${job.id}/answer`)}>
                {job.number} <span className="private">{job.owner}</span>
              </Item>
            ))}
          </Group>
        )}
      </Command.List>
    </Command>
  )
}

function Group({ heading, children }: { heading: string; children: React.ReactNode }) {
  return (
    <Command.Group
      heading={heading}
      className="[&_[cmdk-group-heading]]:px-3 [&_[cmdk-group-heading]]:pt-2 [&_[cmdk-group-heading]]:pb-1 [&_[cmdk-group-heading]]:text-sm [&_[cmdk-group-heading]]:text-soft"
    >
      {children}
    </Command.Group>
  )
}

function Item({ act, children }: { act: () => void; children: React.ReactNode }) {
  return (
    <Command.Item onSelect={act} className="cursor-pointer rounded px-3 py-1.5 data-[selected=true]:bg-wash">
      {children}
    </Command.Item>
  )
}

function Shortcuts() {
  return (
    <div className="p-5">
      <h2 className="mb-3 text-lg">Shortcuts</h2>
      <dl className="grid grid-cols-[11rem_1fr] gap-y-1.5">
        {SHORTCUTS.map(([keys, what]) => (
          <div key={keys} className="contents">
            <dt className="font-mono text-sm">{keys}</dt>
            <dd>{what}</dd>
          </div>
        ))}
      </dl>
    </div>
  )
}
