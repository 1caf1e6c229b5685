import UserRound from 'lucide-react/icons/user-round'
import { useState } from 'react'
import { ask, wordsOf } from '../../api/client'
import { Failure } from '../../components/Failure'
import { Island } from '../../components/Island'
import { useAsk } from '../../components/useAsk'

/** Who works at this browser: their name stands in the log beside what they do. */
export const Operator = () => (
  <Island>
    <Naming />
  </Island>
)

function Naming() {
  const { answer: operators, again } = useAsk('GET /api/operators', {})
  const [open, setOpen] = useState(false)
  const [name, setName] = useState('')
  const [problem, setProblem] = useState('')
  const save = async (event: React.FormEvent) => {
    event.preventDefault()
    try {
      await ask('PUT /api/session', { body: { operator: name } })
      await again()
      setOpen(false)
      setProblem('')
    } catch (thrown) {
      setProblem(wordsOf(thrown))
    }
  }
  if (!operators) return null
  return (
    <div className="relative">
      <button
        type="button"
        aria-expanded={open}
        className={`flex items-center gap-1.5 ${operators.current ? 'text-soft hover:text-ink' : 'font-semibold text-accent'}`}
        title="Stands in the log beside what is done at this browser"
        onClick={() => {
          setName(operators.current)
          setOpen(!open)
        }}
      >
        <UserRound size={17} aria-hidden="true" />
        {operators.current || 'Who works here?'}
      </button>
      {open && (
        <form
          onSubmit={save}
          onKeyDown={(event) => event.key === 'Escape' && setOpen(false)}
          className="absolute right-0 z-20 mt-2 w-72 space-y-3 border border-rule bg-paper p-3 shadow-lg"
        >
          <label className="block">
            <span className="mb-1 block font-semibold">Your name</span>
            <input
              className="field"
              required
              maxLength={100}
              list="known-operators"
              // biome-ignore lint/a11y/noAutofocus: it was asked for by the click before
              autoFocus
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
      )}
    </div>
  )
}
