import { Command } from 'cmdk'
import { useState } from 'react'
import { Popover } from '../../components/Popover'
import type { JobChoice } from './jobChoice'

// A list of all jobs of a shop is nothing to scroll through: words lead to the one that is meant.
const MOST_SHOWN = 20

interface Props {
  jobs: readonly JobChoice[]
  chosen: JobChoice
  choose: (job: JobChoice) => void
}

/** One of many jobs, found by its number, its owner or the device. */
export function JobPicker({ jobs, chosen, choose }: Props) {
  const [open, setOpen] = useState(false)
  const [words, setWords] = useState('')
  const sought = words.toLowerCase().split(/\s+/).filter(Boolean)
  const found = jobs.filter(({ number, owner, device }) => {
    const text = `${number} ${owner} ${device}`.toLowerCase()
    return sought.every((word) => text.includes(word))
  })
  return (
    <Popover
      trigger={
        <>
          Job: <span className="private">{chosen.owner}</span>{' '}
          <span className="font-mono text-sm">{chosen.number}</span>
        </>
      }
      label="Choose a job"
      open={open}
      setOpen={setOpen}
      className="w-96 !p-0"
    >
      <Command label="Jobs" shouldFilter={false}>
        <Command.Input
          placeholder="Number, owner or device"
          value={words}
          onValueChange={setWords}
          className="w-full border-b border-rule bg-raised px-3 py-2 outline-none placeholder:text-soft"
        />
        <Command.List className="max-h-72 overflow-auto p-1">
          <Command.Empty className="p-2 text-soft">No job has that.</Command.Empty>
          {found.slice(0, MOST_SHOWN).map((job) => (
            <Command.Item
              key={job.id}
              value={String(job.id)}
              onSelect={() => {
                choose(job)
                setOpen(false)
              }}
              className="flex cursor-pointer gap-3 rounded px-2 py-1.5 data-[selected=true]:bg-wash"
            >
              <span className="font-mono text-sm">{job.number}</span>
              <span className="private">{job.owner}</span>
              <span className="truncate text-soft">{job.device}</span>
            </Command.Item>
          ))}
        </Command.List>
        {found.length > MOST_SHOWN && (
          <p className="border-t border-rule px-3 py-1.5 text-sm text-soft">
            {found.length - MOST_SHOWN} more; type to find them.
          </p>
        )}
      </Command>
    </Popover>
  )
}
