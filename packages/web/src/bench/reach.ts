/** How far the cables on a parameter can take it. */
import {
  type Cable,
  CATALOGUE,
  modulated,
  type NumberParam,
  own,
  type Patch,
  patchIndex,
  type PatchIndex,
  splitTarget,
  toScale,
} from '@ypsilon/core'
import { cablesTo } from './cable-index.ts'

/** How far one cable swings, in its amount's unit. */
const swingOf = (index: PatchIndex, { from, amount = 1 }: Cable): { up: number; down: number } => {
  const [source = '', port = ''] = splitTarget(from) ?? []
  const output = CATALOGUE.get(index.module.get(source)?.type ?? '')?.outputs.get(port)
  const isOneWay = output?.oneSided === true || output?.kind === 'gate',
    size = Math.abs(amount)
  return { up: amount > 0 || !isOneWay ? size : 0, down: amount < 0 || !isOneWay ? size : 0 }
}

/** Reach as scale positions: control and audio swing both ways, gates and envelopes up; undefined without a cable. */
export const reachOf = (
  patch: Patch,
  id: string,
  param: NumberParam,
): readonly [number, number] | undefined => {
  const cables = cablesTo(patch, `${id}.${param.name}`).filter((cable) => !cable.muted)
  if (cables.length === 0) return undefined
  const index = patchIndex(patch)
  const base = Number(own(index.module.get(id)?.params, param.name) ?? param.default)
  const swings = cables.map((cable) => swingOf(index, cable))
  const up = swings.reduce((sum, swing) => sum + swing.up, 0),
    down = swings.reduce((sum, swing) => sum + swing.down, 0)
  return [toScale(param, modulated(param, base, -down)), toScale(param, modulated(param, base, up))]
}
