/** Asks, once, whether the browser may show notes. */
export async function mayTell(): Promise<boolean> {
  if (!('Notification' in window)) return false
  return (await Notification.requestPermission()) === 'granted'
}

const TONE_HZ = 660
const TONE_S = 0.25

/** A short tone, and a note where the browser may show one. */
export function tell(title: string, body: string): void {
  if ('Notification' in window && Notification.permission === 'granted') new Notification(title, { body })
  const context = new AudioContext()
  const tone = context.createOscillator()
  const loudness = context.createGain()
  tone.frequency.value = TONE_HZ
  loudness.gain.setValueAtTime(0.15, context.currentTime)
  loudness.gain.exponentialRampToValueAtTime(0.001, context.currentTime + TONE_S)
  tone.connect(loudness).connect(context.destination)
  tone.start()
  tone.stop(context.currentTime + TONE_S)
  tone.onended = () => void context.close()
}
