import { generateKeyPairSync } from 'node:crypto'
import { mkdir, readFile, writeFile } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { fingerprintOf, type Signer, signerWith } from '@lumbrin/core/export/signing'
import { readConfig } from '../config.js'

/** The installation's own key lies beside its other data, for its owner alone, and goes with its backups. */
const keyFile = () => join(readConfig().dataFolder, 'signing-key.pem')

/** Signs packages as those of this installation. The key is made with the first one. */
export async function ownSigner(): Promise<Signer> {
  const path = keyFile()
  const there = await readFile(path, 'utf8').catch((thrown: NodeJS.ErrnoException) => {
    if (thrown.code === 'ENOENT') return undefined
    throw thrown
  })
  if (there !== undefined) return signerWith(there)
  await mkdir(dirname(path), { recursive: true })
  const made = generateKeyPairSync('ed25519').privateKey.export({ type: 'pkcs8', format: 'pem' }).toString()
  // Two processes may make one at the same moment: the first counts.
  await writeFile(path, made, { mode: 0o600, flag: 'wx' }).catch((thrown: NodeJS.ErrnoException) => {
    if (thrown.code !== 'EEXIST') throw thrown
  })
  return signerWith(await readFile(path, 'utf8'))
}

/** By what packages of this installation are known: its key's SHA-256, to be told to whoever asks. */
export const ownFingerprint = async (): Promise<string> => fingerprintOf((await ownSigner()).publicKey)
