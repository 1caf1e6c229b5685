// The sample of the reference: an archived string with one run of attributes, up to its length and behind its text.
const HEAD =
  '040b73747265616d747970656481e803840140848484124e5341747472696275746564537472696e67008484084e534f626a656374008592848484084e53537472696e67019484012b'
const TAIL =
  '86840269490105928484840c4e5344696374696f6e617279009484016901928496961d5f5f6b494d4d657373616765506172744174747269627574654e616d658692848484084e534e756d626572008484074e5356616c7565009484012a84999900868686'

/** An archived attributed string, as newer systems keep a message's text in place of the text column. */
export function attributedBody(text: string): Buffer {
  const bytes = Buffer.from(text)
  const length =
    bytes.length < 0x80 ? Buffer.from([bytes.length]) : Buffer.from([0x81, bytes.length & 0xff, bytes.length >> 8])
  return Buffer.concat([Buffer.from(HEAD, 'hex'), length, bytes, Buffer.from(TAIL, 'hex')])
}
