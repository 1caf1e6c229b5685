/*
 * Every weight of the search for cells, in bits: the logarithm (base 2) of how much seldomer bytes that mean something else
 * look like this (docs/decisions/0007). Beside each what the bench found when it is halved and doubled (`npm run bench --
 * weights`): rows that come back right of all that survive whole, and rows with a wrong value or invented; = where nothing
 * changes. The probabilities of values stand in likelihood.ts.
 */
export const WEIGHTS = {
  /** A candidate of less is left out: bytes that mean something else look like a record too often. */
  least: 25,
  /** So many more are asked for where a table has no live rows to fit its profile to. */
  leastUnfitted: 5,
  /** A whole cell of a table among entries of an index needs so many. */
  leastAmongIndex: 40,
  /** Evidence of types and values below which a table is not considered. */
  leastFit: -2,
  /** A cell that ends where another begins, or where its region ends, lies where cells lie. */
  adjacent: 8,
  /** So many the types of another cell among a candidate's values need, to say that it was written over. */
  cellInside: 14,
  /** So many chosen cells inside of a candidate need, to say that they were written over it. */
  overwritten: 34,
  /** A candidate is taken up to where it was written over. */
  cut: -6,
  /** By so many the best of several readings must lead, where no live rows decide. */
  clear: 16,
  /** Payload size and size of the record header agree to the byte. */
  whole: 14,
  /** The same, with a payload size of two bytes or more, which is right more rarely. */
  wholeLong: 6,
  /** A whole cell runs beyond its region. */
  wholeCut: -4,
  /** The record header is whole behind overwritten bytes. */
  headerIntact: 7,
  /** The same where a cell begins for sure. */
  headerIntactAtCell: 13,
  /** The record header lost its size. */
  headerCut: 4,
  /** It lost types as well. */
  typesLost: -2,
  /** A cut header where a cell begins for sure. */
  atCell: 6,
  /** The cell ends with its freed block, but for a fragment of three bytes. */
  fillsBlock: 14,
  /** It ends inside its freed block, where another one began. */
  endsInBlock: 12,
  /** The cell pointer array of its page names it. */
  pointer: 24,
  /** The pointer that names it is older than others of its page. */
  formerPointer: -12,
  /** A record has as many columns as its table. */
  allColumns: 2,
  /** For each column that it has less than the shortest live row. */
  columnMissing: -3,
  /** A storage class that no live row has in the column. */
  unusualClass: -12,
  /** Text or a blob in a column that is declared for numbers and has no live rows. */
  undeclaredText: -20,
  /** A number in more bytes than SQLite writes. */
  tooLong: -20,
  /** A text that is not well-formed in its encoding. */
  noText: -40,
  /** Control characters, or too many letters that no live text of the column has. */
  strangeText: -20,
} satisfies Record<string, number>
