import { DAY_MS } from '@lumbrin/core/findings/bin-days'
import { scaleLinear } from 'd3'

/**
 * A time axis on which every date of a job can be told apart: long stretches without any date take less room, by the
 * logarithm of their days. Dates in milliseconds; positions from 0 to `width`.
 */
export function timeScale(dates: readonly number[], width: number): (at: number) => number {
  const stops = [...new Set(dates)].sort((a, b) => a - b)
  const [first] = stops
  if (first === undefined) return () => 0
  const places = [0]
  for (let i = 1; i < stops.length; i++) {
    const days = ((stops[i] as number) - (stops[i - 1] as number)) / DAY_MS
    places.push((places[i - 1] as number) + Math.log1p(days) + 0.5)
  }
  const end = places.at(-1) || 1
  const scale = scaleLinear()
    .domain(stops.length > 1 ? stops : [first - DAY_MS, first])
    .range(stops.length > 1 ? places.map((place) => (place / end) * width) : [0, width])
    .clamp(true)
  return (at) => scale(at)
}
