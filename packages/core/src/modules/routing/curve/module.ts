import { help, input, output } from '../../../describe/helpers.ts'
import { pointHandles } from '../../../describe/drawing.ts'
import { curveTable, type Point } from '../../../describe/points.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

/** What the picture shows. */
const SPANS = { across: 'x', up: 'y', left: -1, right: 1, foot: -1, top: 1 } as const
const RESOLUTION = 1024

export const curve: ModuleDescription = {
  type: 'curve',
  family: 'routing',
  label: 'Curve',
  mark: 'M2 2v12h12M2 14C9 14 6 4 14 4',
  words: ['drawn', 'mapping', 'transfer', 'lookup', 'velocity curve', 'shape'],
  help: help(
    'A drawn curve from in to out',
    'What comes in, −1…1, is looked up on the curve; beyond its ends the curve goes on level. Points are x, y and the bend to the next one.',
    '−1…1 in and out.',
    'Draw how velocity should open the filter.',
  ),
  front: ['in', 'out'],
  headline: [],
  inputs: [input('in', 'control')],
  outputs: [output('out', 'control')],
  params: [],
  editor: { kind: 'curve' },
  data: [
    {
      name: 'points',
      kind: 'points',
      length: 256,
      spans: SPANS,
      default: [
        { x: -1, y: -1 },
        { x: 1, y: 1 },
      ],
    },
  ],
  table: (context) => curveTable(context.data('points') as Point[], -1, 1, RESOLUTION),
  picture: (context) => {
    const table = curveTable(context.data('points') as Point[], -1, 1, 128)
    return {
      kind: 'line',
      title: 'What comes out over what comes in',
      across: 'in',
      up: 'out',
      curves: [{ points: Array.from({ length: 129 }, (_, i) => [i / 128, (table[i]! + 1) / 2] as const) }],
    }
  },
  handles: (context) => pointHandles(context.data('points') as Point[], SPANS),
  frames: 'memoryless',
  cost: [16, 15, 15],
  bound: 6.1,
  sounds: true,
}
