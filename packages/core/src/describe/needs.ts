import type { ModuleDescription, Need } from './types.ts'

const SOUND: Need = { any: ['in'], message: 'nothing comes in; connect a sound' }
const CLOCK: Need = {
  any: ['clock'],
  message: 'never moves: nothing is connected to its clock. Connect a clock, or a trigger of notes',
}

/** What a module needs connected: what its description says, else a sound at `in` and a clock at `clock`. */
export const needsOf = (module: ModuleDescription): readonly Need[] =>
  module.needs ??
  module.inputs.flatMap((port) => {
    if (port.normalled !== undefined) return []
    if (port.name === 'in' && port.kind === 'audio') return [SOUND]
    return port.name === 'clock' ? [CLOCK] : []
  })
