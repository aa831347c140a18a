import { help, input, output } from '../../../describe/helpers.ts'
import { curveTable, type Point } from '../../../describe/points.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

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
  data: [
    {
      name: 'points',
      kind: 'points',
      length: 256,
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
  handles: (context) => {
    const points = context.data('points') as Point[],
      acrossOf = (point: Point | undefined): number => point?.x ?? 0
    return points.map((point, n) => ({
      name: `Point ${n + 1}`,
      at: [(acrossOf(point) + 1) / 2, ((point.y ?? 0) + 1) / 2] as const,
      shows: [],
      // The ends stay at the sides, and the others between their neighbours.
      moved: (x: number, y: number) => {
        const isEnd = n === 0 || n === points.length - 1
        const place = Math.min(acrossOf(points[n + 1]), Math.max(acrossOf(points[n - 1]), 2 * x - 1))
        const next = { ...point, x: isEnd ? acrossOf(point) : place, y: 2 * y - 1 }
        return { data: { points: points.map((other, at) => (at === n ? next : other)) } }
      },
    }))
  },
  frames: 'memoryless',
  cost: [16, 15, 15],
  bound: 6.1,
  sounds: true,
}
