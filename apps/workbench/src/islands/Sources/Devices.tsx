import { modelName } from '@lumbrin/core/backup/models'
import type { JobDevice } from '@lumbrin/core/findings/devices'
import { ask } from '../../api/client'
import { Failure } from '../../components/Failure.js'
import { useAct } from '../../components/useAct'
import { plural } from '../../domain/format'
import type { DeviceRole } from '../../domain/labels'
import { DEVICE_ROLES } from '../../domain/labels'

/** Whose a device is, as it stands on screen. */
export const ROLE_WORDS: Record<JobDevice['role'], string> = {
  brief: 'the brief is about it',
  owner: 'another device of the owner',
  other: 'somebody else’s',
  account: 'the owner’s account',
}

/**
 * The devices of a job: its sources say which there are. What is claimed of an item is said of the device of the brief;
 * what only another one shows stands elsewhere.
 */
export function Devices({ jobId, devices }: { jobId: number; devices: readonly JobDevice[] }) {
  const { act, failed } = useAct()
  const say = (key: string, role: DeviceRole) =>
    act(() => ask('POST /api/jobs/{job}/device-role', { path: { job: jobId }, body: { key, role } }))
  return (
    <section aria-label="Devices of this job" className="border-t border-rule pt-2">
      <ul>
        {devices.map((device) => (
          <li key={device.key} className="flex items-baseline gap-3 py-0.5">
            <strong>{device.name}</strong>
            <span className="text-soft">
              {[modelName(device.productType), plural(device.sourceIds.length, 'source')].filter(Boolean).join(' · ')}
            </span>
            {device.role === 'account' ? (
              <span className="ml-auto">{ROLE_WORDS.account}</span>
            ) : (
              <select
                className="field ml-auto !w-auto"
                aria-label={`Whose “${device.name}” is`}
                value={device.role}
                onChange={({ target }) => say(device.key, DEVICE_ROLES[target.selectedIndex] ?? 'owner')}
              >
                {DEVICE_ROLES.map((role) => (
                  <option key={role} value={role}>
                    {ROLE_WORDS[role]}
                  </option>
                ))}
              </select>
            )}
          </li>
        ))}
      </ul>
      <Failure className="mt-2">{failed}</Failure>
    </section>
  )
}
