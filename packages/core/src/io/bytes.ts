const UNITS = ['B', 'kB', 'MB', 'GB', 'TB']

/** Bytes in decimal units, as file managers show them: 14.3 MB. */
export function formatBytes(bytes: number): string {
  let step = 0
  // What would be rounded to 1000 is one of the next unit.
  while (step < UNITS.length - 1 && bytes / 1000 ** step >= 999.5) step++
  const value = bytes / 1000 ** step
  return `${step === 0 || value >= 100 ? Math.round(value) : value.toFixed(1)} ${UNITS[step]}`
}
