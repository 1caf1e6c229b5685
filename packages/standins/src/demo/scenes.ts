import type { Random } from '../random.js'

// Palettes of the demo's generated pictures: dusk over a field, a lit stage, the workshop, the road.
const SKIES = [
  ['#20364a', '#d98e5a'],
  ['#0f2a35', '#4f8f8b'],
  ['#3a2a4d', '#e0a899'],
  ['#88b7c9', '#f2e3c2'],
  ['#16202c', '#3d5a73'],
] as const
const CURTAINS = ['#7d2630', '#5a2348', '#1f4a44', '#6b4a1f'] as const
const BODIES = ['#c9803f', '#8fa35b', '#4f7d8c', '#b0574f', '#d8b64a', '#7a5c8e'] as const

/** A generated picture of the puppet theatre's life, as SVG. */
export function scene(random: Random, width: number, height: number): string {
  const paint = random.pick([stage, stage, field, workshop, road])
  return `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}" viewBox="0 0 400 300" preserveAspectRatio="xMidYMid slice">${paint(random)}</svg>`
}

function stage(random: Random): string {
  const curtain = random.pick(CURTAINS)
  const folds = Array.from(
    { length: 8 },
    (_, i) =>
      `<path d="M${i * 9} 0 q6 150 0 300 h7 q5 -150 0 -300 z M${400 - i * 9} 0 q-6 150 0 300 h-7 q-5 -150 0 -300 z" fill="#000" opacity="${0.08 + (i % 2) * 0.12}"/>`,
  )
  const cast = Array.from({ length: random.int(1, 4) }, (_, i) =>
    puppet(random, 110 + i * 60 + random.int(-10, 10), 190),
  )
  return `<defs><radialGradient id="g" cx=".5" cy=".55" r=".6"><stop offset="0" stop-color="#f6d58a"/><stop offset="1" stop-color="#2a1a20"/></radialGradient></defs>
<rect width="400" height="300" fill="url(#g)"/>${moon(random, 200, 80, 26)}<rect y="245" width="400" height="55" fill="#4a3324"/>${cast.join('')}
<rect width="74" height="300" fill="${curtain}"/><rect x="326" width="74" height="300" fill="${curtain}"/>${folds.join('')}
<path d="M0 0 h400 v34 ${Array.from({ length: 10 }, () => 'q-20 26 -40 0').join(' ')} z" fill="${curtain}" stroke="#d8b64a" stroke-width="3"/>`
}

function puppet(random: Random, x: number, y: number): string {
  const body = random.pick(BODIES)
  const tilt = random.int(-14, 14)
  const ears = random.chance(0.5)
    ? `<path d="M-15 -34 l4 -20 l10 14 z M15 -34 l-4 -20 l-10 14 z" fill="${body}"/>`
    : '<rect x="-14" y="-58" width="28" height="14" rx="3" fill="#2b2b33"/>'
  return `<g transform="translate(${x} ${y}) rotate(${tilt})"><path d="M-12 -40 V-200 M12 -40 V-200 M-26 10 V-200 M26 10 V-200" stroke="#eee" stroke-width=".7" opacity=".6"/>
${ears}<circle cy="-28" r="20" fill="${body}"/><path d="M-20 -10 h40 l8 56 h-56 z" fill="${random.pick(BODIES)}"/><path d="M-18 0 l-16 26 M18 0 l16 26" stroke="${body}" stroke-width="8" stroke-linecap="round"/>
<circle cx="-7" cy="-31" r="3" fill="#181818"/><circle cx="7" cy="-31" r="3" fill="#181818"/><path d="M-6 -20 q6 6 12 0" stroke="#181818" stroke-width="2" fill="none"/></g>`
}

const moon = (random: Random, x: number, y: number, r: number) =>
  `<circle cx="${x + random.int(-60, 60)}" cy="${y + random.int(-15, 15)}" r="${r}" fill="#fbf0cf" opacity=".9"/>`

function field(random: Random): string {
  const [high, low] = random.pick(SKIES)
  const hills = [0, 1, 2].map(
    (i) =>
      `<path d="M0 ${190 + i * 30} q${random.int(60, 140)} ${-random.int(20, 50)} 200 0 t200 0 V300 H0 z" fill="#1f3d33" opacity="${0.45 + i * 0.25}"/>`,
  )
  const tent = `<g transform="translate(${random.int(120, 280)} 232)"><path d="M-70 0 L0 -66 L70 0 z" fill="#efe3c8"/>${[-47, -23, 0, 23, 47].map((x, i) => (i % 2 ? '' : `<path d="M0 -66 L${x - 11} 0 h22 z" fill="#a63f3a"/>`)).join('')}<path d="M0 -66 v-18 l20 7 l-20 7" fill="#d8b64a"/></g>`
  return `<defs><linearGradient id="s" x2="0" y2="1"><stop stop-color="${high}"/><stop offset="1" stop-color="${low}"/></linearGradient></defs><rect width="400" height="300" fill="url(#s)"/>${moon(random, 200, 60, 18)}${hills.join('')}${tent}`
}

function workshop(random: Random): string {
  const tools = Array.from(
    { length: 9 },
    (_, i) =>
      `<rect x="${30 + i * 40}" y="${40 + random.int(0, 14)}" width="${random.int(5, 12)}" height="${random.int(40, 80)}" rx="3" fill="${random.pick(['#6f7f86', '#8a5a36', '#b9a27c'])}"/>`,
  )
  return `<rect width="400" height="300" fill="#c8ab82"/><rect width="400" height="150" fill="#dcc7a2"/>${tools.join('')}<rect y="200" width="400" height="24" fill="#7a5331"/>
<rect x="40" y="224" width="26" height="76" fill="#5f3f25"/><rect x="334" y="224" width="26" height="76" fill="#5f3f25"/>${puppet(random, random.int(110, 290), 160)}
${Array.from({ length: 14 }, () => `<circle cx="${random.int(20, 380)}" cy="${random.int(190, 200)}" r="${random.int(1, 4)}" fill="#efd9ae"/>`).join('')}`
}

function road(random: Random): string {
  const [high, low] = random.pick(SKIES)
  return `<defs><linearGradient id="s" x2="0" y2="1"><stop stop-color="${high}"/><stop offset="1" stop-color="${low}"/></linearGradient></defs><rect width="400" height="300" fill="url(#s)"/>
<path d="M0 190 q100 -40 200 0 t200 0 V300 H0 z" fill="#34523d"/><path d="M150 300 L196 188 h8 L260 300 z" fill="#545a5c"/><path d="M204 300 l-3 -112" stroke="#efe9db" stroke-width="3" stroke-dasharray="10 8"/>
<g transform="translate(${random.int(60, 240)} 214)"><rect width="96" height="46" rx="6" fill="${random.pick(BODIES)}"/><path d="M96 12 h22 l12 18 v16 h-34 z" fill="#efe3c8"/><circle cx="24" cy="48" r="11" fill="#1b1f20"/><circle cx="104" cy="48" r="11" fill="#1b1f20"/></g>`
}
