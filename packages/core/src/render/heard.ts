/** What is heard at every output port of a patch while a note is held: measured, not guessed. */
import { CATALOGUE } from '../catalogue.ts'
import type { PlayerEvent } from '../notes/events.ts'
import { descriptionOf } from '../patch/groups.ts'
import type { Patch } from '../patch/types.ts'
import { planRender, type RenderOptions } from './render.ts'

export interface Heard {
  /** Largest value of every output port, by `module.port`. */
  readonly ports: ReadonlyMap<string, number>
  /** The same of the sum that leaves. */
  readonly output: number
}

const NOTE = 57,
  SECONDS = 1.6
/** Modules whose ports are listened to, groups closed. */
const MOST_MODULES = 400

const largest = (channels: readonly Float32Array[], frames: number, so: number): number => {
  let most = so
  for (const channel of channels)
    for (let n = 0; n < frames; n += 1) {
      const size = Math.abs(channel[n]!)
      if (size > most) most = size
    }
  return most
}

const HELD: readonly PlayerEvent[] = [{ t: 0.02, type: 'on', note: NOTE, velocity: 0.8, id: 1 }]

/** Plays a test note for a second and a half and listens everywhere; undefined where the patch cannot be played. */
export const heardIn = (
  kernels: WebAssembly.Module,
  patch: Patch,
  assets?: NonNullable<RenderOptions['assets']>,
): Heard | undefined => {
  const taps = patch.modules
    .slice(0, MOST_MODULES)
    .flatMap((module) =>
      CATALOGUE.has(module.type) || module.inside
        ? (descriptionOf(module)?.outputs ?? []).map(({ name }) => `${module.id}.${name}`)
        : [],
    )
  const planned = planRender(kernels, patch, {
    events: HELD,
    seconds: SECONDS,
    taps,
    ...(assets ? { assets } : {}),
  })
  if (!planned.ok) return undefined
  const ports = new Map<string, number>()
  let output = 0
  const steps = planned.value.run({
    output: (channels, frames) => {
      output = largest(channels, frames, output)
    },
    tap: (key, channels, frames) => {
      ports.set(key, largest(channels, frames, ports.get(key) ?? 0))
    },
  })
  for (const _ of steps);
  return { ports, output }
}
