import { describe, expect, inject, it } from 'vitest'
import { all, demoBackup, warnings } from '../../../../../tests/setup/fixtures.js'
import { openSealed } from '../../backup/keychain.js'
import { openBackup } from '../../backup/open.js'
import { readStep } from '../read.js'
import { attributesOf } from './attributes.js'
import { revealSecret } from './index.js'

const hex = (text: string) => Buffer.from(text, 'hex')
const PASSWORD = { password: 'seven strings' }

describe('the cipher of a keychain item', () => {
  // Computed for the reference with a general library: AES-256-GCM under 00…1f with an initial vector of no bytes.
  const key = Buffer.from(Array.from({ length: 32 }, (_, i) => i))
  const sealed = hex('953006da3394f6938682fe423c')
  const tag = hex('c37f9345480fa84879d2d1116eb46549')

  it('opens the vector', () => {
    expect(Buffer.from(openSealed(key, sealed, tag) ?? []).toString()).toBe('empty-iv test')
  })

  it('opens nothing that was changed', () => {
    expect(openSealed(key, hex(`94${sealed.toString('hex').slice(2)}`), tag)).toBeUndefined()
    expect(openSealed(key, sealed, Buffer.alloc(16))).toBeUndefined()
  })
})

describe('saved passwords', () => {
  const { folder } = demoBackup(inject('demoFolder'), 'encrypted')

  it('are listed without their secrets, which open one by one', async () => {
    const tree = await openBackup(folder, () => {}, PASSWORD)
    const found = await all(readStep(tree, { category: 'credentials', pass: 'live' }, () => {}))
    expect(found.map(({ title, text }) => [title, text])).toEqual([
      ['AirPort', 'Theatre van'],
      ['example.puppetry.chat', 'casting'],
      ['tickets.theatre.example', 'odile@theatre.example'],
      ['postbox.example', 'odile'],
    ])
    expect(JSON.stringify(found)).not.toContain('Seventeen')
    const secrets = await Promise.all(found.map(({ fields }) => revealSecret(tree, String(fields.secretAt))))
    expect(secrets).toEqual(['curtain-up-at-8', 'string#9', 'Seventeen-Foxes', 'pärchen & 月'])
    expect(await revealSecret(tree, 'genp/99')).toBeUndefined()
  })

  it('of a backup without a password are said to be locked, and invented by nobody', async () => {
    const warned = warnings()
    const tree = await openBackup(folder, () => {}, PASSWORD)
    const plain = { ...tree, info: { ...tree.info, encrypted: false }, find: tree.find.bind(tree) }
    const found = await all(
      readStep(plain as unknown as typeof tree, { category: 'credentials', pass: 'live' }, warned.report),
    )
    expect(found).toEqual([])
    expect(warned.list.map(({ code }) => code)).toEqual(['only-in-encrypted'])
  })

  it.each(['', 'ff', '3100', '30020101', '3105300302', '3080'.repeat(50_000)])(
    'does not fail on the damaged item %s',
    (bytes) => {
      try {
        expect(attributesOf(hex(bytes)).size).toBe(0)
      } catch (thrown) {
        expect(thrown).toMatchObject({ name: 'FormatError' })
      }
    },
  )
})
