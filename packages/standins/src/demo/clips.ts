import sharp from 'sharp'
import { Random } from '../random.js'
import { type Frame, film } from './film.js'
import { scene } from './scenes.js'

// Behind all pictures' numbers: a film of a picture's number is its moving half.
const FIRST_FILM = 8000

/** A generated film of the phone's library. */
export interface Clip {
  name: string
  uuid: string
  takenAt: Date
  seconds: number
  place: [number, number]
  fate: 'live' | 'binned' | 'deleted'
  content: Uint8Array
}

const WIDTH = 160
const HEIGHT = 112
const RATE = 6
const DAY_MS = 86_400_000
// Wider than what is shown, for the camera to move over.
const ROOM = 48

const FATES: readonly Clip['fate'][] = ['live', 'live', 'deleted', 'live', 'binned']

/** A few films of different lengths; one is in the bin, one was deleted for good. */
export async function makeClips(takenAt: Date, seed: number): Promise<Clip[]> {
  const random = new Random(seed)
  const clips: Clip[] = []
  for (const [i, fate] of FATES.entries()) {
    const at = new Date(takenAt.getTime() - (FATES.length - i) * 9 * DAY_MS - 5_400_000)
    const seconds = 2 + i
    const content = await panned(seed + i, seconds, at)
    const place: Clip['place'] = [46.2 + 0.9 * i, 7.44 + i]
    clips.push({ name: `IMG_${FIRST_FILM + i}.MOV`, uuid: random.uuid(), takenAt: at, seconds, place, fate, content })
  }
  return clips
}

/** The moving half of a live picture: a second and a half around it. */
export const liveHalf = (seed: number, takenAt: Date): Promise<Uint8Array> => panned(seed, 1.5, takenAt)

/** A camera that moves over a scene. */
async function panned(seed: number, seconds: number, takenAt: Date): Promise<Uint8Array> {
  const width = WIDTH + ROOM
  const svg = Buffer.from(scene(new Random(seed), width, HEIGHT))
  const { data } = await sharp(svg).removeAlpha().raw().toBuffer({ resolveWithObject: true })
  const count = Math.round(seconds * RATE)
  const frames = Array.from({ length: count }, (_, i): Frame => {
    const left = Math.round((ROOM * i) / Math.max(1, count - 1))
    const frame = new Uint8Array(WIDTH * HEIGHT * 3)
    for (let y = 0; y < HEIGHT; y++)
      frame.set(data.subarray((y * width + left) * 3, (y * width + left + WIDTH) * 3), y * WIDTH * 3)
    return frame
  })
  return film(frames, { width: WIDTH, height: HEIGHT, rate: RATE, takenAt })
}
