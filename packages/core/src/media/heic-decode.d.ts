/** The part of the library that is used here; it ships no types. */
declare module 'heic-decode' {
  export default function decode(options: {
    buffer: Uint8Array
  }): Promise<{ width: number; height: number; data: Uint8ClampedArray<ArrayBuffer> }>
}
