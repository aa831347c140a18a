import { choice, help, input, number, output, share, toggle } from '../../../describe/helpers.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

const CHANNELS = [1, 2, 3, 4, 5, 6, 7, 8]

/** What each channel has. */
const STRIP = ['level', 'pan', 'mute', 'solo', 'invert', 'low', 'mid', 'high', 'sendA', 'sendB']

export const mixer: ModuleDescription = {
  type: 'mixer',
  family: 'routing',
  label: 'Mixer',
  mark: 'M3 2v12M8 2v12M13 2v12M1 6h4M6 10h4M11 4h4',
  words: ['channels', 'pan', 'mute', 'solo', 'send', 'return', 'layers', 'tone'],
  help: help(
    'Eight channels with level, pan, tone, mute, solo and two sends',
    'Each channel can be inverted and has lows (below 250 Hz), mids (around 1 kHz) and highs (above 4 kHz). Sends follow the level; what comes back is added to the sum. Balanced divides by the square root of the connected channels, saturate rounds the sum off near full level.',
    'Levels −18…0 dB.',
    'Layer three oscillators and pan two of them.',
  ),
  front: ['in1', 'in2', 'level1', 'level2', 'out'],
  headline: ['level1', 'level2'],
  stays: CHANNELS.flatMap((n) => [`mute${n}`, `solo${n}`, `invert${n}`]),
  inputs: [
    ...CHANNELS.map((n) => input(`in${n}`, 'audio')),
    input('returnA', 'audio'),
    input('returnB', 'audio'),
  ],
  outputs: [output('out', 'audio', 2), output('sendA', 'audio', 2), output('sendB', 'audio', 2)],
  params: [
    ...CHANNELS.flatMap((n) => [
      number(`level${n}`, -60, 12, 0, 'dB', { silence: -60, label: `Level ${n}` }),
      number(`pan${n}`, -1, 1, 0, '', { label: `Pan ${n}` }),
      toggle(`mute${n}`, false, `Mute ${n}`),
      toggle(`solo${n}`, false, `Solo ${n}`),
      toggle(`invert${n}`, false, `Invert ${n}`),
      number(`low${n}`, -24, 24, 0, 'dB', { label: `Low ${n}` }),
      number(`mid${n}`, -24, 24, 0, 'dB', { label: `Mid ${n}` }),
      number(`high${n}`, -24, 24, 0, 'dB', { label: `High ${n}` }),
      share(`sendA${n}`, 0, 0, 1, { label: `Send A ${n}` }),
      share(`sendB${n}`, 0, 0, 1, { label: `Send B ${n}` }),
    ]),
    number('level', -60, 12, 0, 'dB', { silence: -60 }),
    choice('gain', ['sum', 'balanced', 'saturate']),
  ],
  adds: true,
  picture: 'signal',
  stages: [
    {
      name: 'channels',
      reads: CHANNELS.flatMap((n) => [`in${n}`, ...STRIP.map((name) => `${name}${n}`)]),
      writes: ['sendA', 'sendB'],
    },
    { name: 'master', reads: ['returnA', 'returnB', 'level'], writes: ['out'] },
  ],
  memory: (_context, voices, sideCount) => 2064 * Math.ceil((voices * sideCount) / 4),
  shape: { sides: 2 },
  state: { flushed: ['tones*48', 'limit*2'] },
  cost: [460, 460, 460],
  bound: 56,
}
