import { help, input, level, number, output, share } from '../../../describe/helpers.ts'
import { drawn } from '../../../describe/pictures.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

/** Frames of ring a lane has: one period of the lowest note, 8 Hz. */
const ringFrames = (sampleRate: number): number => {
  let n = 1024
  while (n < sampleRate / 8 + 160) n *= 2
  return n
}

export const string: ModuleDescription = {
  type: 'string',
  family: 'sources',
  label: 'String',
  mark: 'M1 13h14M2 13C5 3 11 3 14 13',
  words: [
    'pluck',
    'karplus',
    'karplus-strong',
    'plucked',
    'physical model',
    'guitar',
    'harp',
    'sympathetic',
    'resonator',
    'wire',
  ],
  help: help(
    'A string that is plucked or driven, with up to three that ring along',
    'The rise of gate plucks it with a burst of noise of one period; anything at excite drives it as well. It is exactly in tune whatever damping and stiffness are. Damping makes high partials die first, position is where it is plucked (50 % leaves out the even ones), stiffness stretches the partials. Coupled strings are tuned against it and hear it, as much as their coupling says.',
    'Decay 1…8 s, damping 10…60 %, position 10…45 %.',
    'Couple two at −12 and 7 semitones with 0.2.',
  ),
  front: ['pitch', 'gate', 'decay', 'damping', 'out'],
  headline: ['decay', 'damping'],
  inputs: [input('pitch', 'pitch'), input('gate', 'gate'), input('excite', 'audio')],
  outputs: [output('out', 'audio')],
  params: [
    number('decay', 0.05, 60, 3, 's', { log: true }),
    share('damping', 0.3),
    share('position', 0.2),
    share('stiffness', 0),
    number('coupled', 0, 3, 0, '', { setOnly: true, whole: true }),
    ...[1, 2, 3].flatMap((n) => [
      number(`coupling${n}`, -1, 1, 0.2, '', { label: `Coupling ${n}` }),
      number(`coupleTune${n}`, -24, 24, [-12, 7, 12][n - 1]!, 'st', { label: `Tune ${n}` }),
    ]),
    share('pluck', 1),
    level(),
  ],
  picture: (context) => ({
    kind: 'bars',
    title: 'Partials as plucked',
    across: 'partial',
    up: 'level',
    curves: [
      {
        points: Array.from(
          { length: 24 },
          (_, i) =>
            [
              (i + 0.5) / 24,
              Math.abs(drawn.sin(Math.PI * (i + 1) * context.number('position'))) *
                (1 - context.number('damping') * 0.6 * (i / 24)),
            ] as const,
        ),
      },
    ],
  }),
  // Per string: the damping's two samples and the stiffness's eight.
  state: { flushed: ['one*4', 'two*4', 'stiff*16', 'blow'], kept: ['before', 'burst', 'quiet', 'count'] },
  memory: (context, voices, sides) =>
    Math.ceil((voices * sides) / 4) * 16 * ringFrames(context.sampleRate) * (1 + context.number('coupled')),
  needs: [{ any: ['gate', 'excite'], message: 'is never plucked: connect a gate, or a sound to excite' }],
  cost: [190, 210, 210],
  costlier: ({ number, isCabled }) =>
    1 +
    0.68 * number('coupled') +
    (isCabled('damping') || isCabled('decay') || isCabled('stiffness') ? 0.9 : 0),
  bound: 64,
}
