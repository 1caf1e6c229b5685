import { join, sep } from 'node:path'
import { readConfig } from '../config.js'

/** Before a path that is told from the data folder on. No path of a file system begins so. */
const OWN = 'data:'

/** A path as it is stored: what lies in the data folder is told from there, so that the folder can be moved. */
export function toStored(path: string): string {
  const folder = readConfig().dataFolder + sep
  return path.startsWith(folder) ? `${OWN}${path.slice(folder.length).replaceAll(sep, '/')}` : path
}

/** The path that a stored one means now. */
export const fromStored = (stored: string): string =>
  stored.startsWith(OWN) ? join(readConfig().dataFolder, stored.slice(OWN.length)) : stored
