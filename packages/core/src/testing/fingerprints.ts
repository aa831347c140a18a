/**
 * What every module sounds like, to the bit: hashes to compare before and after a change that must not be heard. The
 * contract suite compares a module with itself; these compare it with what it was.
 */
import { PUBLIC_MODULES } from '../catalogue.ts'
import { isSignalParam } from '../describe/slots.ts'
import type { ModuleDescription } from '../describe/types.ts'
import type { Patch } from '../patch/types.ts'
import { checkPatch, parsePatch } from '../patch/validate.ts'
import { parsePlay } from '../notes/events.ts'
import { render } from '../render/render.ts'
import { testKernels } from './kernels.ts'
import { play, ragged, surround, type Variant, whole } from './surround.ts'

export type Hash = (samples: readonly Float32Array[]) => string

const VARIANTS: readonly Variant[] = [
  { voices: 1, stereo: false },
  { voices: 3, stereo: false },
  { voices: 16, stereo: false },
  { voices: 5, stereo: true },
]

/** Every module that has a kernel and can be listened to. */
export const HEARD: readonly ModuleDescription[] = PUBLIC_MODULES.filter(
  (module) => !module.flattened && module.role !== 'output',
)

const wordsOf = (module: ModuleDescription): Record<string, string>[] =>
  module.params.flatMap((param) =>
    param.kind === 'choice'
      ? param.choices.filter((word) => word !== param.default).map((word) => ({ [param.name]: word }))
      : [],
  )

const valid = (value: unknown): Patch => {
  const result = checkPatch(value)
  if (!result.ok) throw new Error(result.faults[0]!.message)
  return result.value
}

/** The same without what moves its parameters: set values, and one cable on each input. */
const still = (patch: Patch): Patch => ({
  ...patch,
  cables: patch.cables.filter((cable) => cable.from !== 'o.sine'),
})

/** The module in a circle without a delay: its first output back to one of its inputs, softly. */
const looped = (patch: Patch, module: ModuleDescription, into: string): Patch =>
  valid({
    ...patch,
    cables: [
      ...patch.cables,
      { id: 'back', from: `m.${module.outputs[0]!.name}`, to: `m.${into}`, amount: 0.1 },
    ],
  })

/** Hashes of a module's outputs in surroundings like those of the contract suite, by the surroundings' name. */
export const fingerprintsOf = (module: ModuleDescription, hash: Hash): Record<string, string> => {
  const made: Record<string, string> = {}
  const note = (name: string, patch: Patch, lengths: (n: number) => number, seconds = 0.1): void => {
    const { outputs } = play(patch, module, seconds, lengths)
    made[`${module.type} ${name}`] = hash([...outputs.values()].map((rows) => Float32Array.from(rows)))
  }
  for (const variant of VARIANTS) {
    const words = `${variant.voices}${variant.stereo ? ' stereo' : ''}`
    const patch = surround(module, variant)
    note(`moving ${words}`, patch, ragged(variant.voices))
    note(`still ${words}`, still(patch), whole)
  }
  for (const setting of wordsOf(module)) {
    const [name, word] = Object.entries(setting)[0]!
    const patch = surround(module, { voices: 2, stereo: true }, setting)
    note(`${name} ${word}`, patch, ragged(3), 0.06)
    note(`${name} ${word} still`, still(patch), whole, 0.06)
  }
  if (module.outputs.length === 0) return made
  const ends = [
    ...module.inputs.filter((port) => port.kind !== 'gate').map((port) => port.name),
    ...module.params
      .filter((param) => param.kind === 'number' && isSignalParam(param))
      .map(({ name }) => name),
  ].slice(0, 3)
  for (const into of ends) {
    const patch = still(surround(module, { voices: 6, stereo: false }))
    note(`into its ${into}`, looped(patch, module, into), ragged(5), 0.05)
  }
  return made
}

/** Hash of a demo, played as its notes suggest. */
export const fingerprintOfDemo = (text: string, hash: Hash): string => {
  const patch = parsePatch(text)
  if (!patch.ok) throw new Error(patch.faults[0]!.message)
  const { suggestion } = patch.value['view'] as { suggestion: { play: string; seconds: number } }
  const events = parsePlay(suggestion.play)
  if (!events.ok) throw new Error(events.faults[0]!.message)
  const result = render(testKernels(), patch.value, { events: events.value, seconds: suggestion.seconds })
  if (!result.ok) throw new Error(result.faults[0]!.message)
  return hash(result.value.sound.channels)
}
