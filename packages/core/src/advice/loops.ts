/** What a feedback loop is made of, and how long it takes to go round. */
import { CATALOGUE } from '../catalogue.ts'
import type { FlatPatch } from '../compile/flatten.ts'
import type { LoopReport } from '../compile/plan.ts'
import { readersOf } from '../compile/readers.ts'
import { contextOf } from '../compile/shapes.ts'

export interface LoopAdvice {
  /** In the order the signal takes, from the first delay on. */
  readonly modules: readonly string[]
  /** Samples at 48 kHz to go round, filters at their settings included; null where that follows a pitch or a cable. */
  readonly samples: number | null
  /** Of those, what is added to the delays that were set: what a `trim` would have to take off. */
  readonly added: number
  readonly delay: string
}

const RATE = 48000
/** Less than this is nobody's business. */
const LEAST_ADDED = 0.01

/** Members from the first delay on (or the first reader of what is held back), each followed by what it feeds. */
const inSignalOrder = (flat: FlatPatch, members: readonly string[], first: string): string[] => {
  const inside = new Set(members)
  // A set takes in what is added while it is walked.
  const order = new Set([first])
  for (const id of order)
    for (const { module } of readersOf(flat, id)) if (inside.has(module)) order.add(module)
  for (const id of members) order.add(id)
  return [...order]
}

/** Ports by which a member feeds the others. */
const outputsInto = (flat: FlatPatch, id: string, members: ReadonlySet<string>): string[] => [
  ...new Set(
    readersOf(flat, id)
      .filter(({ module }) => members.has(module))
      .map(({ port }) => port),
  ),
]

/** Samples a member holds back; undefined where that follows a pitch, null where a cable moves it. */
const heldBy = (flat: FlatPatch, id: string, members: ReadonlySet<string>): number | undefined | null => {
  // A circle of buses alone has no module that is played.
  const module = flat.byId.get(id)
  if (!module) return 0
  const { description } = CATALOGUE.get(module.type)!
  if (!description.delay) return 0
  const context = contextOf(module, CATALOGUE, RATE)
  const outputs = outputsInto(flat, id, members)
  const held = Math.max(...outputs.map((output) => description.delay!(context, output) ?? Number.NaN))
  if (Number.isNaN(held)) return undefined
  // Only what delays on purpose is looked at for cables: a filter that moves adds about what it is set to.
  const isDelay = description.stages?.some((stage) => stage.reportsDelay) === true
  const moves = ['time', 'trim', 'offset'].some((name) => flat.feeds.has(`${id}.${name}`))
  return isDelay && moves ? null : held
}

const samplesWords = (count: number): string => {
  const rounded = Math.round(count * 100) / 100
  return `${rounded} ${rounded === 1 ? 'sample' : 'samples'}`
}

export const loopAdvice = (flat: FlatPatch, loop: LoopReport): LoopAdvice => {
  const members = new Set(loop.modules),
    delays = new Set(loop.delays)
  const reader = loop.cut[0]?.split(' > ')[1]?.split('.')[0]
  const modules = inSignalOrder(flat, loop.modules, loop.delays[0] ?? reader ?? loop.modules[0]!)
  const held = new Map(loop.modules.map((id) => [id, heldBy(flat, id, members)]))
  const adding = modules.filter((id) => !delays.has(id) && Math.abs(held.get(id) ?? 0) >= LEAST_ADDED)
  const added = adding.reduce((sum, id) => sum + (held.get(id) ?? 0), 0)
  const more =
    adding.length === 0
      ? ''
      : `, and about ${samplesWords(added)} more in ${adding.join(', ')}${loop.delays.length > 0 ? `: a trim of ${Math.round(added * 100) / 100} takes them off` : ''}`
  // Cables side by side are held back at once.
  const cuts = new Set(loop.cut).size
  const lengths = loop.delays.map((id) => held.get(id))
  const moved = loop.delays.filter((id) => held.get(id) === null),
    pitched = loop.delays.filter((id) => held.get(id) === undefined)
  const total = lengths.reduce<number>((sum, length) => sum + (length ?? 0), 0) + added
  if (loop.delays.length === 0)
    return {
      modules,
      samples: cuts + added,
      added: cuts + added,
      delay: `1 sample of delay on ${[...new Set(loop.cut)].join(', ')}${more}`,
    }
  if (moved.length > 0)
    return { modules, samples: null, added, delay: `follows what is connected to ${moved.join(', ')}${more}` }
  if (pitched.length > 0)
    return { modules, samples: null, added, delay: `one period of the pitch of ${pitched.join(', ')}${more}` }
  return { modules, samples: total, added, delay: `${samplesWords(total - added)} at 48 kHz${more}` }
}
