import UserRound from 'lucide-react/icons/user-round'
import { useState } from 'react'
import { ask } from '../../api/client'
import { Failure } from '../../components/Failure'
import { Island } from '../../components/Island'
import { Popover } from '../../components/Popover'
import { useAct } from '../../components/useAct'
import { useAsk } from '../../components/useAsk'

/** Who works at this browser: their name stands in the log beside what they do. */
export const Operator = () => (
  <Island>
    <Naming />
  </Island>
)

function Naming() {
  const { answer: operators } = useAsk('GET /api/operators', {})
  const [open, setOpen] = useState(false)
  const [name, setName] = useState('')
  const { act, failed: problem } = useAct()
  const save = (event: React.FormEvent) => {
    event.preventDefault()
    act(async () => {
      await ask('PUT /api/session', { body: { operator: name } })
      setOpen(false)
    })
  }
  if (!operators) return null
  return (
    <Popover
      trigger={
        <>
          <UserRound size={17} aria-hidden="true" />
          {operators.current || 'Who works here?'}
        </>
      }
      triggerClass={`flex items-center gap-1.5 ${operators.current ? 'text-soft hover:text-ink' : 'font-semibold text-accent'}`}
      title="Stands in the log beside what is done at this browser"
      label="Who works here"
      open={open}
      setOpen={(next) => {
        setName(operators.current)
        setOpen(next)
      }}
      className="w-72"
    >
      <form onSubmit={save} className="space-y-3">
        <label className="block">
          <span className="mb-1 block font-semibold">Your name</span>
          <input
            className="field"
            required
            maxLength={100}
            list="known-operators"
            value={name}
            onChange={(event) => setName(event.target.value)}
          />
        </label>
        <datalist id="known-operators">
          {operators.known.map((one) => (
            <option key={one} value={one} />
          ))}
        </datalist>
        <p className="text-sm text-soft">It stands in each job’s log beside what you do. No password is asked.</p>
        <button type="submit" className="button button-main">
          I work here
        </button>
        <Failure>{problem}</Failure>
      </form>
    </Popover>
  )
}
