import { copyFileSync, existsSync, rmSync } from 'node:fs'
import { Random } from '@lumbrin/standins/random'
import { RecordedDatabase, type Value } from './recorded.js'
import { OTHER_TABLES, TABLES, type TableSpec, text } from './tables.js'

/** A version of a row that was once committed. */
export interface Version {
  table: string
  /** Columns that tell it from all other rows of its table. */
  key: string[]
  rowid: number | null
  values: Record<string, Value>
  /** Columns in the order in which the record stores them. */
  stored: { name: string; value: Value; real: boolean }[]
}

export interface Case {
  seed: number
  name: string
  files: { main: string; wal?: string; journal?: string }
  /** Every version that ever was. */
  versions: Version[]
  /** Row now live by table and key. */
  live: Map<string, Version>
  encoding: 'utf8' | 'utf16le' | 'utf16be'
  dropped: Set<string>
  /** Nothing was deleted or changed. */
  untouched: boolean
  secure: 'OFF' | 'FAST' | 'ON'
}

/** Cases from this seed on have other tables, and lose their rows in more ways. */
export const OTHER_SEEDS = 10_001

/** Settings of a case follow from its seed, so that one number names it. */
export function makeCase(seed: number, folder: string): Case {
  const random = new Random(seed)
  const pageSize = random.pick([512, 1024, 4096, 4096, 4096, 8192, 65536])
  const encoding = random.pick(['UTF-8', 'UTF-8', 'UTF-8', 'UTF-16le', 'UTF-16be'])
  const vacuum = random.pick(['NONE', 'NONE', 'NONE', 'INCREMENTAL', 'FULL'])
  const mode = random.pick(['DELETE', 'DELETE', 'WAL', 'WAL', 'PERSIST'])
  const secure = random.pick(['OFF', 'OFF', 'OFF', 'OFF', 'OFF', 'FAST', 'ON'] as const)
  const untouched = random.chance(0.12)
  const main = `${folder}/case-${seed}.db`
  for (const ending of ['', '-wal', '-journal']) rmSync(`${main}${ending}`, { force: true })
  const database = new RecordedDatabase(main)
  database.exec(
    `PRAGMA page_size=${pageSize}; PRAGMA encoding='${encoding}'; PRAGMA auto_vacuum=${vacuum}; PRAGMA secure_delete=${secure};`,
  )
  if (mode === 'WAL')
    database.exec('PRAGMA locking_mode=EXCLUSIVE; PRAGMA journal_mode=WAL; PRAGMA wal_autocheckpoint=0;')
  else database.exec(`PRAGMA journal_mode=${mode};`)
  const history = new History(database, random)
  history.create(
    seed < OTHER_SEEDS
      ? random.pick([TABLES, TABLES, TABLES.slice(0, 3), TABLES.slice(2), TABLES.slice(0, 1)])
      : [random.pick(OTHER_TABLES), ...OTHER_TABLES.filter(() => random.chance(0.5))].filter(isFirst),
  )
  history.insert(random.int(20, 1500))
  if (!untouched) history.lose(mode === 'WAL', seed >= OTHER_SEEDS)
  const files = copyOf(database, main, `${folder}/copy-${seed}.db`, encoding !== 'UTF-8')
  const name = `page ${pageSize}, ${encoding}, auto_vacuum ${vacuum}, journal ${mode}, secure_delete ${secure}${untouched ? ', untouched' : ''}`
  const short = { 'UTF-8': 'utf8', 'UTF-16le': 'utf16le', 'UTF-16be': 'utf16be' } as const
  return {
    seed,
    name,
    files,
    versions: history.versions,
    live: history.live,
    encoding: short[encoding as keyof typeof short],
    dropped: history.dropped,
    untouched,
    secure,
  }
}

const ENDINGS = ['', '-wal', '-journal']

/** The files as they are while the database is open; `again`: as SQLite's shell makes them. */
function copyOf(database: RecordedDatabase, main: string, copy: string, again: boolean): Case['files'] {
  const clear = (path: string) => {
    for (const ending of ENDINGS) rmSync(path + ending, { force: true })
  }
  clear(copy)
  for (const ending of again ? [] : ENDINGS) if (existsSync(main + ending)) copyFileSync(main + ending, copy + ending)
  database.close()
  clear(main)
  if (again) {
    const copies = ENDINGS.map((ending) => `cp -f ${main}${ending} ${copy}${ending}`)
    database.replay(main, `sh -c "(${copies.join('; ')}) 2>/dev/null; true"`)
    clear(main)
  }
  const files: Case['files'] = { main: copy }
  for (const ending of ['wal', 'journal'] as const)
    if (existsSync(`${copy}-${ending}`)) files[ending] = `${copy}-${ending}`
  return files
}

/** Changes a database by SQL and keeps book of every version of every row. */
class History {
  readonly versions: Version[] = []
  readonly live = new Map<string, Version>()
  readonly dropped = new Set<string>()
  #specs: TableSpec[] = []
  #counter = 0

  constructor(
    readonly database: RecordedDatabase,
    readonly random: Random,
  ) {}

  create(specs: TableSpec[]): void {
    this.#specs = specs
    for (const spec of specs) this.database.exec(spec.sql)
  }

  insert(count: number): void {
    this.database.exec('BEGIN')
    for (let i = 0; i < count; i++) this.#insertOne(this.random.pick(this.#specs))
    this.database.exec('COMMIT')
  }

  #insertOne(spec: TableSpec): void {
    const i = this.#counter++
    const values = Object.fromEntries(spec.columns.map((column) => [column.name, column.make(this.random, i)]))
    const names = Object.keys(values)
    const rowid = this.database.run(
      `INSERT INTO ${quoted(spec.name)} (${names.map(quoted).join(', ')}) VALUES (${names.map(() => '?').join(', ')})`,
      Object.values(values),
    )
    this.#note(spec, spec.rowids ? rowid : null, values)
  }

  #note(spec: TableSpec, rowid: number | null, values: Record<string, Value>): void {
    const all = spec.alias ? { [spec.alias]: rowid, ...values } : values
    const order = spec.rowids
      ? Object.keys(all)
      : [...spec.key, ...Object.keys(all).filter((name) => !spec.key.includes(name))]
    const stored = order.map((name) => ({
      name,
      value: name === spec.alias ? null : (all[name] as Value),
      real: spec.columns.find((column) => column.name === name)?.real === true,
    }))
    const version: Version = { table: spec.name, key: spec.key, rowid, values: all as Record<string, Value>, stored }
    this.versions.push(version)
    this.live.set(keyOf(version), version)
  }

  /** Deletes, changes, drops and fills up again, in several transactions. */
  lose(wal: boolean, more: boolean): void {
    const steps = this.random.int(1, 5)
    for (let step = 0; step < steps; step++) {
      this.database.exec('BEGIN')
      const act = this.random.pick([
        this.#deleteSome,
        this.#deleteSome,
        this.#deleteRange,
        this.#update,
        this.#update,
        this.#addColumn,
        this.#drop,
        this.#refill,
        ...(more ? [this.#deleteAll, this.#index, this.#vacuum] : []),
      ])
      act.call(this)
      this.database.exec('COMMIT')
      if (wal && this.random.chance(0.3))
        this.database.exec(`PRAGMA wal_checkpoint(${this.random.pick(['PASSIVE', 'RESTART', 'TRUNCATE'])})`)
    }
  }

  #of(spec: TableSpec): Version[] {
    return [...this.live.values()].filter((version) => version.table === spec.name)
  }

  #where(spec: TableSpec, version: Version): [string, Value[]] {
    if (version.rowid !== null) return ['rowid = ?', [version.rowid]]
    return [
      spec.key.map((name) => `${quoted(name)} = ?`).join(' AND '),
      spec.key.map((name) => version.values[name] as Value),
    ]
  }

  #delete(spec: TableSpec, versions: Version[]): void {
    for (const version of versions) {
      const [where, values] = this.#where(spec, version)
      this.database.run(`DELETE FROM ${quoted(spec.name)} WHERE ${where}`, values)
      this.live.delete(keyOf(version))
    }
  }

  #deleteSome(): void {
    const spec = this.random.pick(this.#specs)
    const share = this.random.pick([0.02, 0.1, 0.4])
    this.#delete(
      spec,
      this.#of(spec).filter(() => this.random.chance(share)),
    )
  }

  #deleteRange(): void {
    const spec = this.random.pick(this.#specs)
    const rows = this.#of(spec)
    const from = this.random.int(0, Math.max(0, rows.length - 1))
    this.#delete(spec, rows.slice(from, from + this.random.int(1, Math.max(1, rows.length))))
  }

  #update(): void {
    const spec = this.random.pick(this.#specs)
    const changeable = spec.columns.filter((column) => !spec.key.includes(column.name) && column.name !== 'guid')
    for (const version of this.#of(spec)) {
      if (!this.random.chance(0.15)) continue
      const column = this.random.pick(changeable)
      const value = column.make(this.random, this.#counter++)
      const [where, values] = this.#where(spec, version)
      this.database.run(`UPDATE ${quoted(spec.name)} SET ${quoted(column.name)} = ? WHERE ${where}`, [value, ...values])
      const { [spec.alias ?? '']: _, ...own } = version.values
      this.#note(spec, version.rowid, { ...own, [column.name]: value })
    }
  }

  #addColumn(): void {
    const spec = this.random.pick(this.#specs)
    if (!spec.rowids) return
    const name = `added${this.#counter++}`
    this.database.exec(`ALTER TABLE ${quoted(spec.name)} ADD COLUMN ${name} TEXT`)
    const wider = { ...spec, columns: [...spec.columns, { name, make: text(1, 3) }] }
    this.#specs = this.#specs.map((known) => (known === spec ? wider : known))
    for (const version of this.live.values()) if (version.table === spec.name) version.values[name] = null
  }

  #drop(): void {
    if (this.#specs.length < 2 || this.random.chance(0.5)) return
    const spec = this.random.pick(this.#specs)
    this.database.exec(`DROP TABLE ${quoted(spec.name)}`)
    this.#specs = this.#specs.filter((known) => known !== spec)
    this.dropped.add(spec.name)
    for (const [key, version] of this.live) if (version.table === spec.name) this.live.delete(key)
  }

  #deleteAll(): void {
    const spec = this.random.pick(this.#specs)
    this.database.exec(`DELETE FROM ${quoted(spec.name)}`)
    for (const [key, version] of this.live) if (version.table === spec.name) this.live.delete(key)
  }

  #index(): void {
    const spec = this.random.pick(this.#specs)
    const column = this.random.pick(spec.columns)
    const name = `by${this.#counter++}`
    this.database.exec(`CREATE INDEX ${name} ON ${quoted(spec.name)} (${quoted(column.name)})`)
    if (this.random.chance(0.3)) this.database.exec(`DROP INDEX ${name}`)
  }

  #vacuum(): void {
    this.database.exec(`PRAGMA incremental_vacuum(${this.random.int(1, 20)})`)
  }

  #refill(): void {
    for (let i = this.random.int(1, 200); i > 0; i--) this.#insertOne(this.random.pick(this.#specs))
  }
}

const isFirst = <T>(one: T, at: number, all: T[]) => all.indexOf(one) === at

const quoted = (name: string) => `"${name}"`

export const keyOf = ({ table, rowid, key, values }: Version): string =>
  `${table}\0${rowid ?? JSON.stringify(key.map((name) => values[name]))}`
