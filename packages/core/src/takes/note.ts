/** One note of a patch from a fresh engine. */
import type { ParamValue, Result } from '../patch/types.ts'
import { render, type Rendered, type RenderOptions, withSettings } from '../render/render.ts'
import type { StepPatch } from './step.ts'

export interface PlayedNote extends Pick<RenderOptions, 'seconds' | 'tail'> {
  readonly note: number
  readonly velocity: number
  /** Seconds it is held. */
  readonly hold: number
  readonly rate: number
}

/** `values` lie over the patch from the first sample. */
export const notePlayed = (
  kernels: WebAssembly.Module,
  { patch, assets }: StepPatch,
  values: readonly (readonly [target: string, value: ParamValue])[],
  { note, velocity, hold, ...options }: PlayedNote,
): Result<Rendered> =>
  render(kernels, withSettings(patch, values), {
    ...options,
    events: [
      { t: 0, type: 'on', note, velocity, id: 1 },
      { t: hold, type: 'off', note, id: 1 },
    ],
    assets,
  })
