/**
 * A line of text from a device for a plain text file: without control characters, which steer terminals, and without
 * marks that turn the direction of what follows (Unicode Standard Annex 9, explicit formatting characters).
 */
export const plainText = (text: string): string =>
  text
    .toWellFormed()
    // biome-ignore lint/suspicious/noControlCharactersInRegex: control characters are what is removed here
    .replace(/[\u0000-\u0008\u000a-\u001f\u007f-\u009f\u2028\u2029\u202a-\u202e\u2066-\u2069]/g, '')
