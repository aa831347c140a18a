import { help, input, output } from '../../../describe/helpers.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

/** The compiler's own: one sample of delay on the cable that closes a loop without any delay module. Not in the catalogue. */
export const unitdelay: ModuleDescription = {
  type: 'unitdelay',
  family: 'routing',
  label: 'Unit delay',
  mark: 'M2 4h12v8H2zM5 6h6l-6 4h6',
  picture: 'signal',
  part: 'unitdelay',
  words: [],
  internal: true,
  help: help('One sample of delay', 'Stands on the cable that closes a loop.', '', ''),
  headline: [],
  inputs: [input('in', 'audio')],
  outputs: [output('out', 'audio')],
  params: [],
  stages: [
    { name: 'read', reads: [], writes: ['out'], reportsDelay: true },
    { name: 'write', reads: ['in'], writes: [] },
  ],
  state: { flushed: ['last'], kept: ['lastFrame'] },
  bound: 5,
}
