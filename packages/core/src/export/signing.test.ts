import { execFileSync, spawnSync } from 'node:child_process'
import { generateKeyPairSync } from 'node:crypto'
import { appendFileSync, existsSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { scratchFolder } from '../../../../tests/setup/fixtures.js'
import { BagWriter } from './bag.js'
import { checkBag } from './bag-check.js'
import { fingerprintOf, isSignedBy, PUBLIC_KEY, SIGNATURE, signerWith, VERIFY_COMMAND } from './signing.js'

const SIGNER = signerWith(generateKeyPairSync('ed25519').privateKey.export({ type: 'pkcs8', format: 'pem' }).toString())

async function bagAt(folder: string, name: string): Promise<void> {
  const bag = await BagWriter.create(folder)
  await bag.write(name, `what is in ${name}`)
  await bag.finish({ 'Bag-Software-Agent': 'a test' }, { signer: SIGNER })
}

/** What the command that the report names says of a package. */
const opensslOf = (folder: string) => {
  const { stdout, stderr, status } = spawnSync('sh', ['-c', VERIFY_COMMAND], { cwd: folder, encoding: 'utf8' })
  return { said: `${stdout}${stderr}`.trim(), ok: status === 0 }
}

describe('a signed package', () => {
  it('is verified by openssl with the command of its report, also after more was added', async () => {
    const folder = join(scratchFolder(), 'bag')
    for (const name of ['a.txt', 'b.txt']) {
      await bagAt(folder, name)
      expect(opensslOf(folder)).toEqual({ said: 'Signature Verified Successfully', ok: true })
      expect(await checkBag(folder)).toMatchObject({ altered: [], missing: [], unlisted: [], signature: 'valid' })
    }
    const sums = ['manifest-sha256.txt', 'tagmanifest-sha256.txt']
    execFileSync('sha256sum', ['--strict', '--quiet', '-c', ...sums], { cwd: folder })
    // The fingerprint is the SHA-256 of the key's DER form, as openssl and sha256sum compute it.
    const digits = execFileSync('sh', ['-c', `openssl pkey -pubin -in ${PUBLIC_KEY} -outform DER | sha256sum`], {
      cwd: folder,
    })
    expect(fingerprintOf(readFileSync(join(folder, PUBLIC_KEY), 'utf8')).replaceAll(' ', '')).toBe(
      digits.toString().slice(0, 64),
    )
  })

  it.each<[string, (folder: string) => void, object]>([
    [
      'the manifest of tags',
      (folder) => appendFileSync(join(folder, 'tagmanifest-sha256.txt'), '\n'),
      { signature: 'invalid' },
    ],
    [
      'the key, for one of somebody else',
      (folder) => {
        const { publicKey } = generateKeyPairSync('ed25519')
        writeFileSync(join(folder, PUBLIC_KEY), publicKey.export({ type: 'spki', format: 'pem' }))
      },
      { altered: [PUBLIC_KEY], signature: 'invalid' },
    ],
    [
      'the signature, for nonsense',
      (folder) => writeFileSync(join(folder, SIGNATURE), 'nonsense'),
      { signature: 'invalid' },
    ],
    ['the signature, away', (folder) => rmSync(join(folder, SIGNATURE)), { signature: 'invalid' }],
    [
      'a label',
      (folder) => appendFileSync(join(folder, 'bag-info.txt'), 'Contact-Name: nobody\n'),
      { altered: ['bag-info.txt'] },
    ],
  ])('of which somebody changed %s, does not pass', async (_, change, found) => {
    const folder = join(scratchFolder(), 'bag')
    await bagAt(folder, 'a.txt')
    change(folder)
    expect(await checkBag(folder)).toMatchObject(found)
    if ('signature' in found) expect(opensslOf(folder).ok).toBe(false)
    await expect(bagAt(folder, 'b.txt')).rejects.toThrow(/Nothing was written/)
  })

  it('is no more than that: one without a signature says so, and no nonsense is taken for a signature', async () => {
    const folder = join(scratchFolder(), 'bag')
    const bag = await BagWriter.create(folder)
    await bag.write('a.txt', 'a')
    await bag.finish({})
    expect(existsSync(join(folder, SIGNATURE))).toBe(false)
    expect(await checkBag(folder)).toMatchObject({ signature: 'none' })
    for (const key of ['', 'no key', SIGNER.publicKey]) expect(isSignedBy(key, Buffer.from('x'), 'AAAA')).toBe(false)
    expect(() => signerWith('no key')).toThrow()
  })
})
