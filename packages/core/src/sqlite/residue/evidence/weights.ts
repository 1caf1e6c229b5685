/*
 * Every weight of the search for cells, in bits: the logarithm (base 2) of how much seldomer bytes that mean something else
 * look like this (docs/decisions/0007). Beside each stands what became of 40 databases (`npm run bench --
 * weights`, seeds 1 to 40) when it was halved and doubled: the share of the rows surviving whole that come back right, and the
 * number of rows with a wrong value or invented. As it is: 99.92 % / 3. Where nothing changed, other evidence decides in these
 * databases. The probabilities of values stand in likelihood.ts.
 */
export const WEIGHTS = {
  /** A candidate of less is left out: bytes that mean something else look like a record too often. Halved: 99.92 % / 308; doubled: 82.30 % / 1. */
  least: 25,
  /** So many more are asked for where a table has no live rows to fit its profile to. Halved or doubled: no difference. */
  leastUnfitted: 5,
  /** A whole cell of a table among entries of an index needs so many. Halved: 99.92 % / 8; doubled: no difference. */
  leastAmongIndex: 40,
  /** Evidence of types and values below which a table is not considered. Halved or doubled: no difference. */
  leastFit: -2,
  /** A cell that ends where another begins, or where its region ends, lies where cells lie. Halved: no difference; doubled: 99.92 % / 4. */
  adjacent: 8,
  /** So many the types of another cell among a candidate's values need, to say that it was written over. Halved: 99.92 % / 2; doubled: no difference. */
  cellInside: 14,
  /** So many chosen cells inside of a candidate need, to say that they were written over it. Halved: 99.92 % / 2; doubled: no difference. */
  overwritten: 34,
  /** A candidate is taken up to where it was written over. Halved or doubled: no difference. */
  cut: -6,
  /** By so many the best of several readings must lead, where no live rows decide. Halved or doubled: no difference. */
  clear: 16,
  /** Payload size and size of the record header agree to the byte. Halved: 98.33 % / 4; doubled: 99.92 % / 2. */
  whole: 14,
  /** The same, with a payload size of two bytes or more, which is right more rarely. Halved or doubled: no difference. */
  wholeLong: 6,
  /** A whole cell runs beyond its region. Halved or doubled: no difference. */
  wholeCut: -4,
  /** The record header is whole behind overwritten bytes. Halved or doubled: no difference. */
  headerIntact: 7,
  /** The same where a cell begins for sure. Halved or doubled: no difference. */
  headerIntactAtCell: 13,
  /** The record header lost its size. Halved: no difference; doubled: 99.92 % / 5. */
  headerCut: 4,
  /** It lost types as well. Halved or doubled: no difference. */
  typesLost: -2,
  /** A cut header where a cell begins for sure. Halved or doubled: no difference. */
  atCell: 6,
  /** The cell ends with its freed block, but for a fragment of three bytes. Halved: 99.87 % / 3; doubled: 99.92 % / 14. */
  fillsBlock: 14,
  /** It ends inside its freed block, where another one began. Halved: 96.16 % / 3; doubled: 99.92 % / 20. */
  endsInBlock: 12,
  /** The cell pointer array of its page names it. Halved or doubled: no difference. */
  pointer: 24,
  /** The pointer that names it is older than others of its page. Halved or doubled: no difference. */
  formerPointer: -12,
  /** A record has as many columns as its table. Halved or doubled: no difference. */
  allColumns: 2,
  /** For each column that it has less than the shortest live row. Halved or doubled: no difference. */
  columnMissing: -3,
  /** A storage class that no live row has in the column. Halved: 99.92 % / 13; doubled: 99.92 % / 4. */
  unusualClass: -12,
  /** Text or a blob in a column that is declared for numbers and has no live rows. Halved or doubled: no difference. */
  undeclaredText: -20,
  /** A number in more bytes than SQLite writes. Halved or doubled: no difference. */
  tooLong: -20,
  /** A text that is not well-formed in its encoding. Halved or doubled: no difference. */
  noText: -40,
  /** Control characters, or too many letters that no live text of the column has. Halved or doubled: no difference. */
  strangeText: -20,
} satisfies Record<string, number>
