export function saveOwnData(data: string, to: string): Promise<number>
export function bringOwnData(from: string, data: string): Promise<number>
