import { ItemTime, useTimes } from '../../components/times'
import { plural } from '../../domain/format'
import type { Trial } from '../../domain/profile'

/** What a profile made of a database: the first messages, so that wrong columns show. */
export function TrialResult({ trial, busy }: { trial: Trial | null; busy: boolean }) {
  const { zone } = useTimes()
  if (busy) return <p className="text-soft">Reading the database, live rows and leftovers…</p>
  if (!trial)
    return (
      <p className="text-soft">
        Try the profile, and the first messages that it reads stand here: when, in which conversation, from whom, what.
      </p>
    )
  return (
    <div className="space-y-3">
      <h2>
        {plural(trial.live, 'message')}, {plural(trial.rebuilt, 'rebuilt one')}
      </h2>
      <p className="font-mono text-xs break-all text-soft">{trial.store}</p>
      {trial.warnings.map((warning) => (
        <p key={warning} className="notice text-sm">
          {warning}
        </p>
      ))}
      <table className="table table-dense text-sm">
        <thead>
          <tr>
            <th>When ({zone})</th>
            <th>Conversation</th>
            <th>From</th>
            <th>Text</th>
          </tr>
        </thead>
        <tbody>
          {trial.messages.map((message, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: the list never changes
            <tr key={i}>
              <td className="whitespace-nowrap">
                <ItemTime item={message} />
              </td>
              <td dir="auto">{message.title}</td>
              <td dir="auto">
                {message.fields.direction === 'out'
                  ? 'the owner'
                  : String(message.fields.senderName ?? message.fields.sender ?? 'unknown')}
              </td>
              <td dir="auto" className="break-words">
                {message.text}
                {Array.isArray(message.fields.attachments) && message.fields.attachments.length > 0 && (
                  <span className="text-soft"> + {plural(message.fields.attachments.length, 'attachment')}</span>
                )}
                {message.condition !== 'live' && <span className="text-soft"> ({message.condition})</span>}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  )
}
