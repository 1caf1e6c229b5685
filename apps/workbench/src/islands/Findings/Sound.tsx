import { useEffect, useRef, useState } from 'react'
import { contentAddress } from '../../components/addresses'

const BARS = 160
const HEIGHT = 48
// Longer sounds would be decoded into gigabytes; they are played without a picture of them.
const MOST_BYTES = 30 << 20

/** A sound with its waveform; a click in it goes there. */
export function Sound({ id, title, bytes }: { id: number; title: string; bytes: number }) {
  const [peaks, setPeaks] = useState<number[]>([])
  const [share, setShare] = useState(0)
  const player = useRef<HTMLAudioElement>(null)
  const address = contentAddress(id)
  useEffect(() => {
    setPeaks([])
    if (bytes > MOST_BYTES) return
    const stop = new AbortController()
    loudness(address, stop.signal).then(setPeaks, () => {})
    return () => stop.abort()
  }, [address, bytes])
  const go = (event: React.MouseEvent<SVGSVGElement>) => {
    const { left, width } = event.currentTarget.getBoundingClientRect()
    if (player.current) player.current.currentTime = ((event.clientX - left) / width) * player.current.duration
  }
  return (
    <div className="mt-4">
      {peaks.length > 0 && (
        // biome-ignore lint/a11y/noStaticElementInteractions: the player below it does the same by keyboard
        <svg
          viewBox={`0 0 ${BARS} ${HEIGHT}`}
          className="h-12 w-full"
          preserveAspectRatio="none"
          role="presentation"
          onClick={go}
        >
          {peaks.map((peak, at) => (
            <rect
              // biome-ignore lint/suspicious/noArrayIndexKey: bars have no other name
              key={at}
              x={at}
              y={(HEIGHT - Math.max(1, peak * HEIGHT)) / 2}
              width={0.7}
              height={Math.max(1, peak * HEIGHT)}
              fill={at / BARS < share ? 'var(--accent)' : 'var(--soft)'}
            />
          ))}
        </svg>
      )}
      {/* biome-ignore lint/a11y/useMediaCaption: recordings of the owner have no captions */}
      <audio
        ref={player}
        controls
        preload="metadata"
        className="w-full"
        src={address}
        aria-label={title}
        onTimeUpdate={({ currentTarget: { currentTime, duration } }) =>
          setShare(duration > 0 ? currentTime / duration : 0)
        }
      />
    </div>
  )
}

/** The loudest moment of each stretch, from 0 to 1. @throws where the browser cannot decode it */
async function loudness(address: string, signal: AbortSignal): Promise<number[]> {
  const answer = await fetch(address, { signal })
  const sound = await new OfflineAudioContext(1, 1, 44_100).decodeAudioData(await answer.arrayBuffer())
  const samples = sound.getChannelData(0)
  const step = Math.max(1, Math.floor(samples.length / BARS))
  const peaks = Array.from({ length: BARS }, (_, bar) => {
    let peak = 0
    for (let at = bar * step; at < Math.min(samples.length, (bar + 1) * step); at++)
      peak = Math.max(peak, Math.abs(samples[at] ?? 0))
    return peak
  })
  const loudest = Math.max(...peaks, 0.01)
  return peaks.map((peak) => peak / loudest)
}
