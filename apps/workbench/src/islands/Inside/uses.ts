/** What a page is used for, in words, with its colour on the map. Keys as in the core's catalogue, in its order. */
export const USES = [
  { id: 'unknown', label: 'belongs to nothing', color: '--map-unknown' },
  { id: 'tableLeaf', label: 'rows of a table', color: '--map-table' },
  { id: 'tableInterior', label: 'inner page of a table', color: '--map-table-inner' },
  { id: 'indexLeaf', label: 'entries of an index', color: '--map-index' },
  { id: 'indexInterior', label: 'inner page of an index', color: '--map-index-inner' },
  { id: 'overflow', label: 'rest of a long row', color: '--map-overflow' },
  { id: 'freeTrunk', label: 'free, lists other free pages', color: '--map-trunk' },
  { id: 'freeLeaf', label: 'free', color: '--map-free' },
  { id: 'pointerMap', label: 'pointer map', color: '--map-fixed' },
  { id: 'lockByte', label: 'lock page', color: '--map-fixed' },
] as const

/** Parts of a page, in words, with their colours. */
export const SPANS = {
  header: { label: 'page header', color: '--map-fixed' },
  pointers: { label: 'cell pointers', color: '--map-index' },
  gap: { label: 'unused', color: '--map-unknown' },
  freeblock: { label: 'freed', color: '--map-free' },
  cell: { label: 'live row', color: '--map-table' },
  rebuilt: { label: 'rebuilt row', color: '--map-trunk' },
  other: { label: 'no b-tree page', color: '--map-overflow' },
} as const
