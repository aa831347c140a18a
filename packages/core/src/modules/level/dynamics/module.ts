import { help, input, number, output, positive, share } from '../../../describe/helpers.ts'
import { sampled } from '../../../describe/pictures.ts'
import type { ModuleDescription, PictureContext, PictureHandle } from '../../../describe/types.ts'

/** What the picture shows, up to 0 dB. */
const SPAN_DB = 60
const upOf = (db: number): number => Math.min(1, Math.max(0, (SPAN_DB + db) / SPAN_DB))
/** Slope of the greatest ratio. */
const LEAST_SLOPE = 0.01

/** Level out for a level in, at rest. */
const outDb = ({ number }: PictureContext, db: number): number => {
  const ratio = number('ratio'),
    knee = Math.max(number('knee'), 1e-6),
    x = db - number('threshold')
  // How far beyond the threshold it counts, or how far below it where quiet sounds are made quieter.
  const side = ratio >= 1 ? x : -x
  const over = side < -knee / 2 ? 0 : side > knee / 2 ? side : (side + knee / 2) ** 2 / (2 * knee)
  return db + (ratio >= 1 ? over : -over) * (1 / ratio - 1)
}

export const dynamics: ModuleDescription = {
  type: 'dynamics',
  family: 'level',
  label: 'Dynamics',
  mark: 'M2 14l6-6 6-2M2 8h2M8 14v-2',
  words: ['compressor', 'sidechain', 'noise gate', 'expander', 'gate', 'ducking', 'limiter', 'glue'],
  help: help(
    'Evens loudness out, or widens it',
    'Above the threshold every decibel more comes out as 1/ratio decibels; a ratio below 1 expands: what is below the threshold gets quieter still. The knee softens the bend. A cable at side is listened to instead of in. Lookahead lets it act before a peak, at the cost of as much delay. Reduction is how many decibels it takes off, per 60.',
    'Threshold −24…−6 dB, ratio 2…6, attack 5…30 ms, release 80…300 ms.',
    'Ratio 4 at −18 dB, makeup 4 dB.',
  ),
  front: ['in', 'threshold', 'ratio', 'makeup', 'out'],
  headline: ['threshold', 'ratio'],
  inputs: [input('in', 'audio'), input('side', 'audio', 'in')],
  outputs: [output('out', 'audio'), positive('reduction')],
  params: [
    number('threshold', -60, 0, -18, 'dB'),
    number('ratio', 0.1, 100, 4, '', { log: true }),
    number('attack', 0.05, 500, 10, 'ms', { log: true }),
    number('release', 1, 5000, 150, 'ms', { log: true }),
    number('knee', 0, 24, 6, 'dB'),
    number('makeup', -24, 36, 0, 'dB'),
    share('mix', 1),
    number('lookahead', 0, 20, 0, 'ms', { setOnly: true }),
  ],
  picture: (context) => ({
    kind: 'line',
    title: 'Level out over level in, −60…0 dB',
    across: 'in',
    up: 'out',
    curves: [{ points: sampled((x) => upOf(outDb(context, SPAN_DB * (x - 1)))) }],
    marks: [[upOf(context.number('threshold')), 'threshold']],
  }),
  handles: (context) => {
    const threshold = context.number('threshold'),
      ratio = context.number('ratio')
    const atThreshold: PictureHandle = {
      name: 'Threshold',
      at: [upOf(threshold), upOf(outDb(context, threshold))],
      shows: ['threshold'],
      moved: (x) => ({ params: { threshold: SPAN_DB * (x - 1) } }),
    }
    // Where the loudest goes: in a straight line from the threshold on, past its knee.
    if (ratio < 1 || -threshold <= context.number('knee') / 2) return [atThreshold]
    const atTop: PictureHandle = {
      name: 'Ratio',
      at: [1, upOf(outDb(context, 0))],
      shows: ['ratio'],
      moved: (_x, y) => ({
        params: { ratio: 1 / Math.max(LEAST_SLOPE, Math.min(1, 1 - (SPAN_DB * (1 - y)) / -threshold)) },
      }),
    }
    return [atThreshold, atTop]
  },
  state: { flushed: ['change', 'peak'], kept: ['hold'] },
  memory: (context, voices, sides) =>
    context.number('lookahead') > 0 ? Math.ceil((voices * sides) / 4) * 16 * 4096 : 0,
  bypass: { from: 'in', to: 'out' },
  latency: (context) => Math.round((context.number('lookahead') / 1000) * context.sampleRate),
  cost: [140, 140, 140],
  bound: 48,
}
