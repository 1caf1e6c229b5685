/** The demo's scenario: a travelling puppet theatre. All people and numbers are made up (555-01xx is reserved). */
export interface Person {
  name: string
  address: string
  trade: string
}

export const OWNER = 'Odile Varga'

const NAMES: [string, string][] = [
  ['Bram Okafor', 'stage carpenter'],
  ['Ilse Tanaka', 'puppet carver'],
  ['Teodor Lindqvist', 'lighting'],
  ['Mirela Santos', 'costumes'],
  ['Jonas Abebe', 'driver'],
  ['Petra Halloran', 'bookings'],
  ['Yusuf Karlsen', 'violin'],
  ['Anouk Mbeki', 'voices'],
  ['Casimir Dupree', 'marionettes'],
  ['Leda Novak', 'shadow screen'],
  ['Osric Fontaine', 'accounts'],
  ['Wanda Ferreira', 'props'],
  ['Hugo Petrov', 'sound'],
  ['Salome Iversen', 'tickets'],
  ['Dario Quist', 'posters'],
  ['Nell Achterberg', 'village hall'],
  ['Ravi Sorensen', 'festival'],
  ['Greta Mulligan', 'school visits'],
  ['Ulla Brandt', 'mother'],
  ['Viktor Varga', 'brother'],
  ['Pia Kowalska', 'dentist'],
  ['Emre Whitlock', 'landlord'],
  ['Clio Marchetti', 'newspaper'],
  ['Felix Oyelaran', 'garage'],
  ['Saga Holm', 'friend'],
  ['Milo Trent', 'friend'],
]

export const PEOPLE: Person[] = NAMES.map(([name, trade], i) => ({
  name,
  trade,
  address: `+1202555${String(100 + i).padStart(4, '0')}`,
}))

/** Group conversations by their name, with members as indices into PEOPLE. */
export const GROUPS: { name: string; members: number[] }[] = [
  { name: 'Tour crew', members: [0, 2, 4, 8, 12] },
  { name: 'Workshop', members: [0, 1, 3, 11] },
  { name: 'Spring festival', members: [5, 13, 14, 16] },
  { name: 'Varga family', members: [18, 19] },
]

/** The conversation that the demo's owner deleted by mistake: with the stage carpenter, about the new stage. */
export const LOST_PERSON = 0
