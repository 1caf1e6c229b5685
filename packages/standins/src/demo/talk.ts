import type { Random } from '../random.js'

const THINGS = [
  'the fox puppet',
  'the moon lantern',
  'the folding stage',
  'the velvet curtain',
  'the thunder sheet',
  'the spare strings',
  'the dragon’s left wing',
  'the ticket box',
  'the shadow screen',
  'the van keys',
  'the paper snow',
  'the old gramophone',
]
const PLACES = [
  'Harrow Mill',
  'Saint Brannoc',
  'the town hall',
  'Lower Quay',
  'the barn',
  'the school in Dunmere',
  'the festival field',
  'Weaver Lane',
]
const TIMES = [
  'at nine',
  'before noon',
  'after the matinee',
  'tonight',
  'tomorrow morning',
  'on Friday',
  'next week',
  'in ten minutes',
]
const LINES = [
  'Could you bring {thing} to {place} {time}?',
  'I left {thing} at {place}. Sorry!',
  '{thing} needs glue again 🙈',
  'We load the van {time}.',
  'Is {thing} still at {place}?',
  'The rehearsal moved: {place}, {time}.',
  'They loved {thing} yesterday ❤️',
  'Sold out for {time} 🎉',
  'Who has {thing}?',
  'Running late, start without me.',
  'Yes',
  'No, {time} does not work for me',
  'Perfect, thank you',
  'Call me {time}',
  'The hinge on {thing} broke, I can mend it {time}.',
  'Rain at {place}. We play indoors.',
  'How many seats does {place} have?',
  'I measured it twice: 3.40 m by 2.15 m',
  'Don’t forget {thing}; last time we had to use a broom.',
  'See you at {place} {time} 👋',
  'Der Vorhang hängt schief, bitte {time} richten.',
  'On répète à {place}, d’accord?',
  '月の提灯を忘れないで。',
  'אל תשכח את הבובה',
  'كل شيء جاهز للعرض',
]

/** One made-up message. */
export function smallTalk(random: Random): string {
  return random
    .pick(LINES)
    .replace('{thing}', random.pick(THINGS))
    .replace('{place}', random.pick(PLACES))
    .replace('{time}', random.pick(TIMES))
}

const STAGE = [
  'left leg',
  'right leg',
  'back rail',
  'cross beam',
  'proscenium',
  'trap door',
  'fly gallery',
  'front apron',
]
const WOODS = ['ash', 'birch plywood', 'spruce', 'beech']

/** One message of the lost conversation: measures of the new folding stage that were noted nowhere else. */
export function stageTalk(random: Random, i: number): string {
  const part = random.pick(STAGE)
  const measure = `${random.int(40, 340)} cm × ${random.int(3, 60)} cm`
  return random.pick([
    `Plan ${i}: ${part} is ${measure}, ${random.pick(WOODS)}.`,
    `Cut the ${part} to ${measure} please, not a finger more.`,
    `The ${part} fits! Next: ${measure} for the other side.`,
    `Hinges for the ${part}: ${random.int(2, 8)} pieces, brass.`,
    `I drew the ${part} again, ${measure}. Photo follows.`,
  ])
}
