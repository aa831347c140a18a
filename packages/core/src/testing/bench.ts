import { render, type RenderOptions } from '../render/render.ts'
import { checkPatch } from '../patch/validate.ts'
import { faultText, type Patch } from '../patch/types.ts'
import { parsePlay } from '../notes/events.ts'
import { testKernels } from './kernels.ts'

type Params = Record<string, number | string | boolean>
type ModuleText = readonly [id: string, type: string, params?: Params, extra?: object]

/** A patch from short forms: modules as [id, type, params], cables as "a.out > b.in * 0.5" or "id: a.out > b.in". */
export const patchOf = (
  modules: readonly ModuleText[],
  cables: readonly string[],
  more: object = {},
): Patch => {
  const value = {
    format: 'ypsilon/patch',
    version: 1,
    name: 'Test',
    seed: 1,
    ...more,
    modules: modules.map(([id, type, params, extra]) => ({
      id,
      type,
      ...(params ? { params } : {}),
      ...extra,
    })),
    cables: cables.map((text) => {
      const [named, rest] = text.split('>').map((part) => part.trim())
      const [from, id] = named!.split(':').reverse()
      const [to, amount] = rest!.split('*').map((part) => part.trim())
      return {
        ...(id === undefined ? {} : { id: id.trim() }),
        from: from!.trim(),
        to,
        ...(amount === undefined ? {} : { amount: Number(amount) }),
      }
    }),
  }
  const result = checkPatch(value)
  if (!result.ok) throw new Error(result.faults.map(faultText).join('\n'))
  return result.value
}

export interface Heard {
  readonly out: Float32Array
  readonly right: Float32Array
  tap(port: string): Float32Array
  lanes(port: string): readonly Float32Array[]
}

/** Renders and hands back samples. `play` as on the command line. */
export const hear = (
  patch: Patch,
  seconds: number,
  options: Omit<RenderOptions, 'events' | 'seconds'> & {
    play?: string
    events?: RenderOptions['events']
  } = {},
): Heard => {
  const { play, events: given, ...rest } = options
  const played = play === undefined ? undefined : parsePlay(play)
  if (played && !played.ok) throw new Error(played.faults.map(faultText).join('\n'))
  const events = [...(given ?? []), ...(played?.ok ? played.value : [])]
  const result = render(testKernels(), patch, { ...rest, seconds, events })
  if (!result.ok) throw new Error(result.faults.map(faultText).join('\n'))
  const { sound, taps } = result.value
  return {
    out: sound.channels[0]!,
    right: sound.channels[1]!,
    tap: (port) => taps.get(port)!.channels[0]!,
    lanes: (port) => taps.get(port)!.channels,
  }
}
