/** Media that packages are split for, by what fits on one. */
export const MEDIA: readonly { label: string; bytes: number }[] = [
  { label: 'CDs (700 MB)', bytes: 700_000_000 },
  { label: 'sticks of 4 GB', bytes: 4_000_000_000 },
  { label: 'DVDs (4.7 GB)', bytes: 4_700_000_000 },
  { label: 'DVDs of two layers (8.5 GB)', bytes: 8_500_000_000 },
  { label: 'Blu-ray discs (25 GB)', bytes: 25_000_000_000 },
]
