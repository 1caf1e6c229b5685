/** Media types by file ending: what a browser and a file manager are told. */
const TYPES: Record<string, string> = {
  jpg: 'image/jpeg',
  jpeg: 'image/jpeg',
  png: 'image/png',
  gif: 'image/gif',
  webp: 'image/webp',
  heic: 'image/heic',
  heif: 'image/heif',
  avif: 'image/avif',
  tif: 'image/tiff',
  tiff: 'image/tiff',
  dng: 'image/x-adobe-dng',
  bmp: 'image/bmp',
  mov: 'video/quicktime',
  mp4: 'video/mp4',
  m4v: 'video/x-m4v',
  '3gp': 'video/3gpp',
  avi: 'video/x-msvideo',
  mkv: 'video/x-matroska',
  webm: 'video/webm',
  ogv: 'video/ogg',
  m4a: 'audio/mp4',
  caf: 'audio/x-caf',
  amr: 'audio/amr',
  mp3: 'audio/mpeg',
  wav: 'audio/wav',
  aiff: 'audio/aiff',
  aif: 'audio/aiff',
  flac: 'audio/flac',
  ogg: 'audio/ogg',
  opus: 'audio/ogg',
  pdf: 'application/pdf',
  txt: 'text/plain',
  vcf: 'text/vcard',
  ics: 'text/calendar',
  rtf: 'application/rtf',
}

/** Media type of a file by its name's ending; the general one where it says nothing. */
export function mimeOf(name: string): string {
  const ending = name.slice(name.lastIndexOf('.') + 1).toLowerCase()
  return TYPES[ending] ?? 'application/octet-stream'
}
