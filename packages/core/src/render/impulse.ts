/** What a path of a patch answers to a click, a sweep or a step: from an input to an output, with everything between. */
import { type Excitation, excitationOf, impulseFrom } from '../analysis/excitation.ts'
import { endsOf } from '../patch/walk.ts'
import type { Fault, Patch, PatchModule } from '../patch/types.ts'
import { checkPatch } from '../patch/validate.ts'
import { render, type RenderOptions } from './render.ts'

export interface PathOptions {
  /** Input it goes to, `module.port`; what is connected there is taken off. */
  readonly from: string
  /** Output that is listened to, `module.port`. */
  readonly to: string
  readonly seconds: number
  readonly sampleRate?: number
  /** Level of what goes in: lower where something bends what is loud. */
  readonly level?: number
  /** What goes in; a click when left out. */
  readonly excitation?: Excitation
  readonly assets?: NonNullable<RenderOptions['assets']>
}

export type ImpulseResult =
  | {
      readonly ok: true
      readonly rate: number
      /** Impulse response by channel. */
      readonly channels: readonly Float32Array[]
      /** What came out itself, by channel: the step response of a step. */
      readonly answer: readonly Float32Array[]
    }
  | { readonly ok: false; readonly faults: readonly Fault[] }

const PROBE = 'probeclick'

/** The patch with its own inputs silent and nothing but the click at `from`. */
const probed = (patch: Patch, from: string): unknown => ({
  ...patch,
  modules: [
    ...patch.modules.map((module): PatchModule =>
      module.type === 'input' ? { ...module, params: { ...module.params, level: 0 } } : module,
    ),
    { id: PROBE, type: 'input' },
  ],
  cables: [
    ...patch.cables.filter(({ to }) => to !== from),
    { id: PROBE, from: `${PROBE}.out`, to: from, amount: 1 },
  ],
})

/** Why a path cannot be walked; undefined where it can. */
const pathFault = (patch: Patch, { from, to }: PathOptions): Fault | undefined => {
  const ids = new Set(patch.modules.map(({ id }) => id))
  for (const place of [from, to]) {
    const { toModule } = endsOf({ from: to, to: place })
    if (!ids.has(toModule)) return { place, message: 'there is no such module outside of groups' }
  }
  return undefined
}

/**
 * Impulse response of a path in the patch at rest: no keys, no events, as it is set. What sounds by itself is taken off
 * (the same with nothing put in), so a path that is linear is measured whatever else plays. Samples by channel from the
 * click on, latency included; faults where a port is not there or the patch cannot be played.
 */
export const impulseResponse = (
  kernels: WebAssembly.Module,
  patch: Patch,
  options: PathOptions,
): ImpulseResult => {
  const fault = pathFault(patch, options)
  if (fault) return { ok: false, faults: [fault] }
  const checked = checkPatch(probed(patch, options.from))
  if (!checked.ok) return checked
  const { seconds, sampleRate = 48000, level = 1, to, assets, excitation = 'click' } = options
  const frames = Math.max(1, Math.round(seconds * sampleRate))
  const input = excitationOf(excitation, sampleRate, frames)
  const heard = (height: number): ReturnType<typeof render> => {
    const put = input.map((x) => height * x)
    return render(kernels, checked.value, {
      seconds,
      rate: sampleRate,
      input: { rate: sampleRate, channels: [put, put] },
      taps: [to],
      events: [],
      ...(assets ? { assets } : {}),
    })
  }
  const loud = heard(level),
    quiet = heard(0)
  if (!loud.ok) return loud
  if (!quiet.ok) return quiet
  const without = quiet.value.taps.get(to)!.channels
  const answer = loud.value.taps
    .get(to)!
    .channels.map((channel, n) => channel.map((x, at) => (x - without[n]![at]!) / level))
  const channels = answer.map((channel) => impulseFrom(excitation, input, channel))
  return { ok: true, rate: sampleRate, channels, answer }
}
