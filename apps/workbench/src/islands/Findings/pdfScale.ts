// A page may claim any size: so many pixels are drawn of it at most.
const MOST_SIDE = 4096

/** By how much a page (in points) is enlarged to fill `room` pixels of a screen with `density` dots a pixel. */
export function scaleOf(width: number, height: number, room: number, density: number): number {
  const longest = Math.max(width, height)
  if (!(width > 0) || !(longest < Number.POSITIVE_INFINITY)) return 1
  return Math.min((room * density) / width, MOST_SIDE / longest)
}
