import { help, input, number, output, toggle } from '../../../describe/helpers.ts'
import { curvePoints } from '../../../describe/pictures.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

export const map: ModuleDescription = {
  type: 'map',
  family: 'routing',
  label: 'Map',
  mark: 'M2 2v12M14 2v12M2 4l12 4M2 12l12-2',
  words: ['range', 'scale', 'attenuate and offset', 'rescale', 'offset', 'invert', 'curve', 'convert'],
  help: help(
    'Turns one range into another',
    'What lies between in low and in high comes out between out low and out high, along a curve: + moves fast first. Turn a range round by swapping its ends. Unclamped it goes on beyond them (the curve only bends inside).',
    'From 0…1 or −1…1 to whatever is needed.',
    'Take an LFO from −1…1 to 0.2…0.8.',
  ),
  front: ['in', 'outLow', 'outHigh', 'out'],
  headline: ['outLow', 'outHigh'],
  inputs: [input('in', 'control')],
  outputs: [output('out', 'control')],
  params: [
    number('inLow', -100000, 100000, 0, ''),
    number('inHigh', -100000, 100000, 1, ''),
    number('outLow', -100, 100, 0, ''),
    number('outHigh', -100, 100, 1, ''),
    number('curve', -1, 1, 0, ''),
    toggle('clamp', true),
  ],
  picture: (context) => ({
    kind: 'line',
    title: 'What comes out over what comes in',
    across: 'in',
    up: 'out',
    curves: [{ points: curvePoints(context.number('curve')) }],
  }),
  frames: 'memoryless',
  cost: [56, 57, 56],
  bound: 20,
  sounds: true,
}
