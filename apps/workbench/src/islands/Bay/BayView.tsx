import { Failure } from '../../components/Failure.js'
import { Island } from '../../components/Island'
import type { Zoned } from '../../components/times'
import { BayEvents } from './BayEvents'
import { BayRulesPanel } from './BayRulesPanel'
import { DeviceCard } from './DeviceCard'
import type { JobChoice } from './jobChoice'
import { RecoveryCard } from './RecoveryCard'
import { useBay } from './useBay'

/** Attached devices as they come and go. */
export function BayView(props: Zoned & { jobs: JobChoice[] }) {
  return (
    <Island zone={props.zone}>
      <BayList {...props} />
    </Island>
  )
}

function BayList({ jobs }: { jobs: JobChoice[] }) {
  const { bay, failed, look } = useBay()
  const problem = failed || bay?.problem
  const empty = bay && !problem && bay.devices.length + bay.recovering.length === 0
  return (
    <div className="min-h-0 flex-1 overflow-auto p-5">
      <div className="mb-4 flex items-baseline gap-4">
        <h1>Bay</h1>
        <p className="text-soft">
          Devices on the cables of this computer. Looking at them changes nothing; reading them writes nothing to them.
        </p>
        {bay?.controls && (
          <a
            className="ml-auto text-accent underline underline-offset-2"
            href={bay.controls}
            target="_blank"
            rel="noreferrer"
          >
            Switches of the demo devices
          </a>
        )}
      </div>
      <Failure className="mb-4">{problem}</Failure>
      <BayRulesPanel />
      {bay && <BayEvents events={bay.events} />}
      {!bay && !failed && <p className="text-soft">Looking at what is on the cables…</p>}
      {empty && (
        <p className="text-soft">Nothing is attached. Plug a device in; it shows here by itself, whatever its state.</p>
      )}
      <ul className="grid gap-5 xl:grid-cols-2">
        {bay?.devices.map((device) => (
          <li key={device.udid}>
            <DeviceCard device={device} freeHere={bay.freeHere} jobs={jobs} look={look} />
          </li>
        ))}
        {bay?.recovering.map((device) => (
          <li key={device.udid}>
            <RecoveryCard device={device} look={look} />
          </li>
        ))}
      </ul>
    </div>
  )
}
