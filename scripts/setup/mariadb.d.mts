export interface RunningDatabase {
  url: string
  pid: number
  ended: Promise<unknown>
  stop(): Promise<void>
}
export function startDatabase(folder: string, name?: string, options?: { lasting?: boolean }): Promise<RunningDatabase>
export function freePort(): Promise<number>
