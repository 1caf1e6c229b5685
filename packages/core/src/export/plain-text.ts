/**
 * A line of text from a device for a plain text file: without control characters, which steer terminals, and without
 * marks that turn the direction of what follows (Unicode Standard Annex 9, explicit formatting characters).
 */
export const plainText = (text: string): string => shownText(text).replace(/[\n\r\u2028\u2029]/g, '')

/** The same of a text whose lines stay, for pages: HTML knows neither control characters nor noncharacters. */
export const shownText = (text: string): string =>
  text
    .toWellFormed()
    // biome-ignore lint/suspicious/noControlCharactersInRegex: control characters are what is removed here
    .replace(/[\u0000-\u0008\u000b\u000c\u000e-\u001f\u007f-\u009f\u202a-\u202e\u2066-\u2069\ufdd0-\ufdef]/g, '')
    .replace(/[\ufffe\uffff\u{1fffe}\u{1ffff}\u{2fffe}\u{2ffff}\u{10fffe}\u{10ffff}]/gu, '')
