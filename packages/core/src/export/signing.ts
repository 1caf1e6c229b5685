import { createHash, createPrivateKey, createPublicKey, sign, verify } from 'node:crypto'

/** Signs what a package says of itself (Ed25519, RFC 8032). */
export interface Signer {
  /** PEM (RFC 8410). */
  publicKey: string
  sign(bytes: Uint8Array): Uint8Array
}

/** The key and the signature of a bag, beside its manifests. */
export const PUBLIC_KEY = 'signing-key.pem'
export const SIGNATURE = 'signature.txt'

/** How somebody checks the signature of a package with general tools. */
export const VERIFY_COMMAND = `openssl base64 -d -in ${SIGNATURE} | openssl pkeyutl -verify -pubin -inkey ${PUBLIC_KEY} -rawin -in tagmanifest-sha256.txt -sigfile /dev/stdin`

/** Signs with a private key. @throws where it is no Ed25519 key in PEM */
export function signerWith(privateKey: string): Signer {
  const key = createPrivateKey(privateKey)
  if (key.asymmetricKeyType !== 'ed25519') throw new Error('a package is signed with an Ed25519 key')
  return {
    publicKey: createPublicKey(key).export({ type: 'spki', format: 'pem' }).toString(),
    sign: (bytes) => sign(null, bytes, key),
  }
}

/** The SHA-256 of a public key (of its DER form), in groups of four digits: short enough to be compared on paper. */
export function fingerprintOf(publicKey: string): string {
  const der = createPublicKey(publicKey).export({ type: 'spki', format: 'der' })
  const digits = createHash('sha256').update(der).digest('hex')
  return (digits.match(/.{4}/g) ?? []).join(' ')
}

/** True where a signature (base64) is that of a key over these bytes; false also for what is neither. */
export function isSignedBy(publicKey: string, bytes: Uint8Array, signature: string): boolean {
  try {
    return verify(null, bytes, createPublicKey(publicKey), Buffer.from(signature, 'base64'))
  } catch {
    return false
  }
}
