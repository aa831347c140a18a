import { choice, help, input, number, output, toggle } from '../../../describe/helpers.ts'
import { pointHandles } from '../../../describe/drawing.ts'
import { curveTable, type Point, sortedPoints } from '../../../describe/points.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

/** What the picture shows. */
const SPANS = { across: 't', up: 'v', left: 0, right: 1, foot: -1, top: 1, length: 'length' } as const
const RESOLUTION = 4096
const DEFAULT: readonly Point[] = [
  { t: 0, v: 0 },
  { t: 0.1, v: 1, curve: 0.4 },
  { t: 0.6, v: 0.5, curve: 0.3 },
  { t: 1, v: 0 },
]

/** Where a held contour waits: the point marked so, or the last but one. */
const waitingPlace = (points: readonly (Point & { readonly sustain?: boolean })[]): number => {
  const marked = points.find((point) => point.sustain === true)
  if (marked) return marked.t ?? marked.x ?? 0
  return sortedPoints(points).at(-2)?.x ?? 0
}

export const contour: ModuleDescription = {
  type: 'contour',
  family: 'modulators',
  label: 'Contour',
  mark: 'M1 13l3-9 3 4 3-6 5 11',
  words: ['drawn envelope', 'multi-stage', 'curve over time', 'loop', 'shape'],
  help: help(
    'A drawn movement',
    'Points at times t from 0 to 1 of the length, values v and the bend to the next point. A gate or trigger starts it. Once plays it through, loop repeats it while the gate is on (or for ever when nothing is connected), sustain waits at the last point but one until the gate falls. With sync the length counts in beats.',
    'Length 0.1…20 s.',
    'Draw a slow swell for the level of a noise.',
  ),
  front: ['gate', 'length', 'out'],
  headline: ['length'],
  inputs: [input('gate', 'gate'), input('trigger', 'gate')],
  outputs: [output('out', 'control'), output('end', 'gate')],
  params: [
    number('length', 0.001, 600, 1, 's', { log: true }),
    toggle('sync', false),
    choice('mode', ['once', 'loop', 'sustain']),
    number('scale', -1, 1, 1, ''),
  ],
  editor: { kind: 'curve' },
  data: [{ name: 'points', kind: 'points', length: 256, default: DEFAULT, spans: SPANS }],
  // First where it waits, then the curve.
  table: (context) => {
    const points = context.data('points') as Point[]
    return Float32Array.from([waitingPlace(points), ...curveTable(points, 0, 1, RESOLUTION)])
  },
  picture: (context) => {
    const points = context.data('points') as Point[]
    const table = curveTable(points, 0, 1, 128)
    return {
      kind: 'line',
      title: 'The contour',
      across: 'time',
      up: 'value',
      curves: [{ points: Array.from({ length: 129 }, (_, i) => [i / 128, (table[i]! + 1) / 2] as const) }],
    }
  },
  handles: (context) => pointHandles(context.data('points') as Point[], SPANS),
  state: { kept: ['gateBefore', 'triggerBefore', 'high', 'low', 'running', 'endLeft', 'started'] },
  frames: 'sequential',
  cost: [1.3, 1.3, 0.011],
  bound: 25,
  sounds: true,
}
