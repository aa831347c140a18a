import { help, input, number, output } from '../../../describe/helpers.ts'
import { ringBytes } from '../../../describe/rings.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

/** The compiler's own: holds a path back until what it meets is as late. Not in the catalogue. */
export const align: ModuleDescription = {
  type: 'align',
  family: 'routing',
  label: 'Alignment',
  mark: 'M2 4h12M2 12h6M8 9v6M12 9v6',
  picture: 'signal',
  part: 'align',
  words: [],
  internal: true,
  help: help('A path held back', 'Stands where paths meet of which one is late.', '', ''),
  headline: [],
  inputs: [input('in', 'audio')],
  outputs: [output('out', 'audio')],
  params: [number('samples', 0, 480000, 0, 'samples', { setOnly: true, whole: true })],
  state: { kept: ['quiet'] },
  memory: (context, voices, sides) => Math.ceil((voices * sides) / 4) * ringBytes(context.number('samples')),
  latency: ({ number: value }) => value('samples'),
  bound: 6,
}
