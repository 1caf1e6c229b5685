import type { DeviceState } from '@lumbrin/core/device/describe'
import { DEVICE_STATES } from '../../domain/device-states'

/** Shape and colour of a state: an open gate, a bar across it, a broken one. */
const SHAPES: Record<DeviceState, { path: string; colour: string }> = {
  ready: { path: 'M2 13V4h10v9', colour: 'var(--earlier)' },
  locked: { path: 'M2 13V4h10v9M2 9h10', colour: 'var(--binned)' },
  untrusted: { path: 'M2 13V4h10v9M4 8h6', colour: 'var(--kept)' },
  asking: { path: 'M2 13V4h10v9M7 6v3M7 11v.5', colour: 'var(--binned)' },
  refused: { path: 'M2 13V4h10v9M4 6l6 5', colour: 'var(--partial)' },
  forgotten: { path: 'M2 13V8M2 4h10v9M4 6l6 5', colour: 'var(--partial)' },
  silent: { path: 'M2 13V4h4M9 4h3v9', colour: 'var(--partial)' },
  erased: { path: 'M2 13h10', colour: 'var(--partial)' },
  recovery: { path: 'M2 13V4h10v9M5 8l2 2 2-2', colour: 'var(--rebuilt)' },
}

/** How a device stands, by shape, colour and words. */
export function StateMark({ state }: { state: DeviceState }) {
  const { path, colour } = SHAPES[state]
  return (
    <span className="inline-flex items-center gap-1.5 font-semibold" style={{ color: colour }} data-state={state}>
      <svg width="14" height="15" viewBox="0 0 14 15" aria-hidden="true">
        <path d={path} fill="none" stroke="currentColor" strokeWidth="1.8" strokeLinecap="round" />
      </svg>
      {DEVICE_STATES[state].label}
    </span>
  )
}
