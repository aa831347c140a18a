/** The reverb's picture: how a click dies away, in three bands, with its early reflections. */
import type { Drawing } from '../../../describe/types.ts'
import { MODEL_WORDS, MODELS, modelTable, LINES, ROUNDS, TAPS } from './models.ts'

/** Level of the picture's foot in dB. */
const FOOT = 60
const POINTS = 24

export const reverbPicture: Drawing = ({ number: value, choice }) => {
  const decay = value('decay'),
    predelay = value('predelay') / 1000,
    model = MODELS.indexOf(choice('model') as (typeof MODELS)[number])
  const table = modelTable(),
    first = Math.max(0, model) * MODEL_WORDS,
    scale = 2 ** (2.4 * (value('size') - 0.5)) * Math.min(1, decay / 0.6)
  const late = predelay + (table[first + MODEL_WORDS - 8]! * scale) / 1000
  const shown = late + decay * Math.max(1, value('lowDecay'))
  const line = (share: number): (readonly [number, number])[] =>
    Array.from({ length: POINTS + 1 }, (_, n) => {
      const t = (n / POINTS) * shown
      const lost = (60 * Math.max(0, t - late)) / (decay * share)
      return [t / shown, t < late ? 0 : Math.max(0, 1 - lost / FOOT)] as const
    })
  const tapsAt = first + LINES + ROUNDS * LINES
  return {
    kind: 'line',
    title: `Level of a click's tail over ${shown < 1 ? `${Math.round(1000 * shown)} ms` : `${shown.toFixed(1)} s`}`,
    across: 'time',
    up: 'level',
    curves: [
      { name: 'mids', points: line(1) },
      ...(value('damping') < 20000 ? [{ name: 'highs', points: line(value('highDecay')) }] : []),
      ...(value('lowDecay') === 1 ? [] : [{ name: 'lows', points: line(value('lowDecay')) }]),
    ],
    marks: Array.from({ length: TAPS }, (_, n) => n)
      .filter((n) => table[tapsAt + TAPS + n] !== 0 && value('early') > 0)
      .map((n) => [Math.min(1, (predelay + (table[tapsAt + n]! * scale) / 1000) / shown), ''] as const),
  }
}
