/**
 * What a module brings to a plan, and when the very same will do again: a module whose shape, numbers and sources are
 * what they were is not put together anew.
 */
import type { PatchModule } from '../patch/types.ts'
import type { FedInput } from './flatten.ts'
import type { Place } from './place.ts'
import type { PlanAdapter, PlanModule, PlanParam, PlanSignal } from './plan.ts'
import type { Source } from './source.ts'
import { type Joined, signalFrom } from './terms.ts'

/** An input or parameter that something ends on. */
export interface Read {
  readonly input: string
  readonly joined: readonly Joined[]
  /** What brings the sources into the input's shape; undefined where the module reads its one source directly. */
  readonly adapter: PlanAdapter | undefined
  /** Signal of the factor that the adapter writes as well, or NOTHING. */
  readonly factor: number
  /** Stages of the module that read it, by number. */
  readonly stages: readonly number[]
}

export interface Piece {
  readonly place: Place
  readonly fed: readonly FedInput[]
  readonly module: PlanModule
  readonly params: readonly PlanParam[]
  readonly signals: readonly (readonly [number: number, signal: PlanSignal])[]
  readonly reads: readonly Read[]
  /** Voices become one here: those that are stolen fade. */
  readonly sums: boolean
  /** Something comes or goes: good for one plan only. */
  readonly fades: boolean
}

const NOTHING_FED: readonly FedInput[] = []

export const fedOf = ({ flat }: Source, id: string): readonly FedInput[] => flat.fed.get(id) ?? NOTHING_FED

const isSameFed = (a: readonly FedInput[], b: readonly FedInput[]): boolean =>
  a === b ||
  (a.length === b.length &&
    a.every(({ input, feeds }, at) => {
      const other = b[at]!
      return (
        input === other.input &&
        (feeds === other.feeds ||
          (feeds.length === other.feeds.length && feeds.every((feed, n) => feed === other.feeds[n])))
      )
    }))

/** Is a source of a piece what it was, and is it to be heard as it was? */
const isSameSource = (source: Source, { sums }: Piece, { term, feed, place }: Joined): boolean => {
  if (!feed || source.before.isTouched(feed.module)) return false
  if (sums && term.mapping !== 'general' && term.steals !== source.origins.get(feed.module)) return false
  if (place) return place === source.places.get(feed.module)
  // A parameter that is read has the shape of what ends on it.
  const { signal, shape } = signalFrom(source, feed.module, feed.port)
  return signal === term.source && shape.voices === term.sourceVoices && shape.sides === term.sourceSides
}

/** What a module needs besides its shape and sources. */
export interface Needs {
  readonly auxBytes: number
  readonly seed: number
  readonly table: Float32Array | undefined
  readonly keeper: string | undefined
}

const pieces = new WeakMap<PatchModule, Piece>()

/** Keeps a piece for plans to come. */
export const keepPiece = ({ module }: Place, piece: Piece): void => {
  if (!piece.fades) pieces.set(module, piece)
}

/** The piece of an earlier plan that does again. */
export const keptPiece = (source: Source, place: Place, needs: Needs): Piece | undefined => {
  const { module } = place,
    piece = pieces.get(module)
  if (!piece || piece.place !== place) return undefined
  const made = piece.module,
    { before } = source
  const isSame =
    made.auxBytes === needs.auxBytes &&
    made.seed === needs.seed &&
    made.table === needs.table &&
    made.keeper === needs.keeper &&
    // What fades is not there yet, or comes from something else.
    (!before.exists || before.module(module.id) === made) &&
    !before.isTouched(module.id) &&
    isSameFed(piece.fed, fedOf(source, module.id)) &&
    piece.reads.every(({ joined }) => joined.every((item) => isSameSource(source, piece, item)))
  return isSame ? piece : undefined
}
