import { choice, help, input, level, number, output, share, toggle } from '../../../describe/helpers.ts'
import { drawn } from '../../../describe/pictures.ts'
import { waveform } from '../../waveform.ts'
import { assetParam, recordingTable } from '../../recordings.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

/** Grains of a voice that may sound at once, and bytes of each. */
const MOST_GRAINS = 64,
  GRAIN_BYTES = 64
/** Frames that a live ring has beyond its history: what the fastest grain runs through. */
const AHEAD_SECONDS = 8

const POINTS = 40

export const grains: ModuleDescription = {
  type: 'grains',
  family: 'sources',
  label: 'Grains',
  mark: 'M1 10a2 2 0 0 1 4 0M4 6a2 2 0 0 1 4 0M7 11a2 2 0 0 1 4 0M10 7a2 2 0 0 1 4 0',
  words: ['granular', 'grain cloud', 'texture', 'freeze', 'stretch', 'scatter', 'particles'],
  help: help(
    'Many short pieces of a recording or of what comes in',
    'Every grain is a piece of the sound with a soft beginning and end. Density says how many a second, jitter how unevenly they come, position where they are taken, spray how far around it. Scan moves the place along: 1 at the speed of the sound, 0 holds it. With a cable on trigger each rise starts a grain. Live, position 0 is what just came in; freeze keeps what is there.',
    'Size 30…150 ms, density 10…60 a second.',
    'A recording, scan 0.2, spray 5 %, size 120 ms.',
  ),
  front: ['in', 'pitch', 'position', 'size', 'out'],
  headline: ['size', 'density'],
  stays: ['freeze'],
  inputs: [input('in', 'audio'), input('pitch', 'pitch'), input('trigger', 'gate', 'its own pace')],
  outputs: [output('out', 'audio')],
  params: [
    assetParam,
    choice('source', ['asset', 'input'], 'asset', { setOnly: true }),
    number('history', 0.1, 30, 4, 's', {
      setOnly: true,
      help: 'How far back position 1 reaches into what came in.',
    }),
    number('size', 2, 1000, 80, 'ms', { log: true }),
    number('density', 0.5, 400, 20, '/s', { log: true }),
    share('jitter', 1, 0, 1, { help: '0 is evenly spaced.' }),
    share('position', 0),
    share('spray', 0, 0, 1, {
      help: 'How far around the position grains are taken, as a share of the sound.',
    }),
    number('scan', -4, 4, 0, '', { help: 'How fast the position moves along; 1 is the speed of the sound.' }),
    number('semitones', -24, 24, 0, 'st'),
    number('pitchSpread', 0, 24, 0, 'st'),
    share('reverse', 0, 0, 1, { help: 'Share of grains that run backwards.' }),
    number('shape', -1, 1, 0, '', { help: 'Below 0 they swell, above 0 they are struck.' }),
    share('pan', 0, 0, 1, { help: 'How far grains lie to the sides.' }),
    toggle('freeze', false),
    level(),
  ],
  shape: { sides: 2 },
  table: (context) =>
    recordingTable(
      context.choice('source') === 'asset' ? context.asset(context.choice('asset')) : undefined,
      context.sampleRate,
    ),
  state: { kept: ['clouds*16'] },
  memory: ({ number: value, choice: word, sampleRate }, voices) =>
    voices *
    (MOST_GRAINS * GRAIN_BYTES +
      (word('source') === 'input'
        ? 8 * 4 * Math.ceil(((value('history') + AHEAD_SECONDS) * sampleRate) / 4)
        : 0)),
  sounds: true,
  tells: ['head'],
  picture: ({ number: value, choice: word, recording, now }) => {
    const shape = word('source') === 'asset' ? recording?.(word('asset')) : undefined
    if (shape)
      return waveform(
        shape,
        'The recording and where grains of it begin',
        [[value('position'), 'position']],
        now?.('head')?.value,
      )
    const peak = 0.5 - 0.49 * value('shape')
    const window = (t: number): number => {
      const x = t < peak ? t / peak : (1 - t) / (1 - peak)
      return 0.5 - 0.5 * drawn.cos(Math.PI * x)
    }
    // As many side by side as overlap, seven at the most.
    const overlap = (value('size') / 1000) * value('density'),
      count = Math.max(1, Math.min(7, Math.round(2 * overlap)))
    return {
      kind: 'line',
      title: 'Grains over each other',
      across: 'time',
      up: 'level',
      curves: Array.from({ length: count }, (_, n) => ({
        points: Array.from({ length: POINTS + 1 }, (_point, k) => {
          const width =
            count > 1
              ? Math.min(1, Math.max(0.12, overlap / (overlap + 1)))
              : Math.min(0.9, Math.max(0.15, overlap))
          const start = count > 1 ? (n / (count - 1)) * (1 - width) : (1 - width) / 2
          return [start + (k / POINTS) * width, window(k / POINTS)] as const
        }),
      })),
    }
  },
  remarks: ({ choice: word }) =>
    word('source') === 'asset' && word('asset') === ''
      ? [['asset', 'no recording is chosen: it is silent. Choose one, or set the source to input']]
      : [],
  cost: [60, 240, 240],
  costlier: ({ number: value }) =>
    Math.max(0.2, Math.min(MOST_GRAINS, (value('size') / 1000) * value('density')) / 1.6),
  swarm: MOST_GRAINS,
  bound: 400,
}
