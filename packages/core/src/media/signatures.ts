/** What bytes are by their beginning: a file name's usual ending and the media type. */
export interface Kind {
  ending: string
  mime: string
}

interface Signature extends Kind {
  at: number
  magic: string
}

/** Beginnings of files, each by its published format (reference, section 7); magic bytes as Latin-1 text. */
const SIGNATURES: Signature[] = [
  { at: 0, magic: '\xff\xd8\xff', ending: 'jpg', mime: 'image/jpeg' },
  { at: 0, magic: '\x89PNG\r\n\x1a\n', ending: 'png', mime: 'image/png' },
  { at: 0, magic: 'GIF8', ending: 'gif', mime: 'image/gif' },
  { at: 8, magic: 'WEBP', ending: 'webp', mime: 'image/webp' },
  { at: 8, magic: 'WAVE', ending: 'wav', mime: 'audio/wav' },
  { at: 8, magic: 'AVI ', ending: 'avi', mime: 'video/x-msvideo' },
  { at: 8, magic: 'AIFF', ending: 'aiff', mime: 'audio/aiff' },
  { at: 8, magic: 'AIFC', ending: 'aiff', mime: 'audio/aiff' },
  { at: 4, magic: 'ftypheic', ending: 'heic', mime: 'image/heic' },
  { at: 4, magic: 'ftypmif1', ending: 'heic', mime: 'image/heic' },
  { at: 4, magic: 'ftypavif', ending: 'avif', mime: 'image/avif' },
  { at: 4, magic: 'ftypqt', ending: 'mov', mime: 'video/quicktime' },
  { at: 4, magic: 'ftypM4A', ending: 'm4a', mime: 'audio/mp4' },
  { at: 4, magic: 'ftyp', ending: 'mp4', mime: 'video/mp4' },
  { at: 0, magic: 'II*\0', ending: 'tif', mime: 'image/tiff' },
  { at: 0, magic: 'MM\0*', ending: 'tif', mime: 'image/tiff' },
  { at: 0, magic: '#!AMR', ending: 'amr', mime: 'audio/amr' },
  { at: 0, magic: 'caff', ending: 'caf', mime: 'audio/x-caf' },
  { at: 0, magic: 'ID3', ending: 'mp3', mime: 'audio/mpeg' },
  { at: 0, magic: 'fLaC', ending: 'flac', mime: 'audio/flac' },
  { at: 0, magic: 'OggS', ending: 'ogg', mime: 'audio/ogg' },
  { at: 0, magic: '\x1a\x45\xdf\xa3', ending: 'mkv', mime: 'video/x-matroska' },
  { at: 0, magic: '{\\rtf1', ending: 'rtf', mime: 'application/rtf' },
  { at: 0, magic: 'BEGIN:VCARD', ending: 'vcf', mime: 'text/vcard' },
  { at: 0, magic: 'BEGIN:VCALENDAR', ending: 'ics', mime: 'text/calendar' },
  { at: 0, magic: '%PDF-', ending: 'pdf', mime: 'application/pdf' },
  { at: 0, magic: 'PK\x03\x04', ending: 'zip', mime: 'application/zip' },
  { at: 0, magic: 'SQLite format 3\0', ending: 'db', mime: 'application/vnd.sqlite3' },
  { at: 0, magic: 'bplist00', ending: 'plist', mime: 'application/x-plist' },
  { at: 0, magic: '<?xml', ending: 'xml', mime: 'application/xml' },
  { at: 0, magic: '\x1f\x8b', ending: 'gz', mime: 'application/gzip' },
]

/** Bytes from the start of a file that are enough to tell its kind. */
export const SIGNATURE_BYTES = 32

/** What the bytes begin like; undefined: nothing that is known. */
export function kindOfBytes(head: Uint8Array): Kind | undefined {
  const text = Buffer.from(head.subarray(0, SIGNATURE_BYTES)).toString('latin1')
  const found = SIGNATURES.find(({ at, magic }) => text.startsWith(magic, at))
  return found && { ending: found.ending, mime: found.mime }
}
