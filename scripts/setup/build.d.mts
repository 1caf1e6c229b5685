export function buildPrograms(options?: { force?: boolean }): Promise<void>
export function buildCommandLine(folder: string): Promise<void>
export function buildStandIns(): Promise<void>
export function bundle(from: string, to: string): Promise<void>
