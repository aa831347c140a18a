import { choice, help, input, number, output } from '../../../describe/helpers.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

export const junction: ModuleDescription = {
  type: 'junction',
  family: 'routing',
  label: 'Junction',
  mark: 'M1 8h14M8 1v14M6 8a2 2 0 1 0 4 0a2 2 0 1 0-4 0',
  words: ['waveguide', 'scattering', 'tube', 'string', 'reflection', 'physical model'],
  help: help(
    'Where two waveguides meet',
    'Waves arriving from the left and from the right are partly reflected and partly let through, as where a tube changes its width (Kelly and Lochbaum 1962). Normalised keeps the energy instead of the pressure, so the gains stay below 1.',
    'Reflection −0.9…0.9.',
    'Connect delay lines to both sides, in both directions.',
  ),
  front: ['left', 'right', 'reflection', 'toleft', 'toright'],
  headline: ['reflection'],
  inputs: [input('left', 'audio'), input('right', 'audio')],
  outputs: [output('toleft', 'audio'), output('toright', 'audio')],
  params: [number('reflection', -1, 1, 0.5, ''), choice('form', ['plain', 'normalised'])],
  picture: 'signal',
  frames: 'memoryless',
  cost: [7.1, 7.6, 7.6],
  bound: 2.3,
}
