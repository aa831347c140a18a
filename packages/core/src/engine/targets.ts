/** What setting a target while it plays means to the engine. */
import { CATALOGUE } from '../catalogue.ts'
import { plainValue } from '../compile/compile.ts'
import { macroModule } from '../compile/flatten.ts'
import { kindOf } from '../describe/kinds/index.ts'
import { paramAt } from '../describe/params.ts'
import { patchIndex } from '../patch/index.ts'
import type { Fault, Patch, ParamValue } from '../patch/types.ts'
import { splitTarget } from '../patch/walk.ts'
import type { EngineEvent } from './events.ts'
import type { Layout } from './layout.ts'
import { SMOOTHING_SECONDS } from './smoothing.ts'

const amountEvents = (layout: Layout, cable: string, value: number, glide: number): EngineEvent[] => {
  const terms = layout.termAddresses(cable)
  layout.noteAmount(cable, value)
  return terms.map(({ address, scale }) => ({
    type: 'amount',
    address,
    value: value * scale,
    glide: Math.max(1, glide),
  }))
}

const macroEvents = (layout: Layout, macro: string, value: number, glide: number): EngineEvent[] => {
  const key = `${macroModule(macro)}.value`,
    address = layout.paramAddress(key)
  if (address === undefined) return []
  layout.noteBase(key, value)
  return [{ type: 'param', address, value, glide }]
}

/**
 * What setting a target means to the engine: events for a parameter, a setting, a cable's terms or a macro that
 * formulas read; a fault when there is no such target or it cannot change while playing.
 */
export const targetEvents = (
  layout: Layout,
  patch: Patch,
  target: string,
  value: ParamValue,
  glideFrames: number,
  sampleRate: number,
): EngineEvent[] | Fault => {
  const smoothed = glideFrames >= 0 ? glideFrames : Math.round(SMOOTHING_SECONDS * sampleRate)
  if (target.startsWith('cable:')) return amountEvents(layout, target.slice(6), Number(value), smoothed)
  if (target.startsWith('macro:')) return macroEvents(layout, target.slice(6), Number(value), smoothed)
  const [id, name] = splitTarget(target) ?? ['', '']
  const module = patchIndex(patch).module.get(id)
  const known = module && CATALOGUE.get(module.type)?.params.get(name)
  const param = known && paramAt(known, module.params)
  if (!module || !param) return { place: target, message: 'there is no such parameter' }
  if (param.setOnly) return { place: target, message: 'is set only: it cannot change while playing' }
  const plain = plainValue(param, value)
  const address = layout.paramAddress(target)
  if (address !== undefined) {
    layout.noteBase(target, plain)
    const clamped = param.kind === 'number' ? Math.min(param.max, Math.max(param.min, plain)) : plain
    // A switch has nothing between: it changes on the sample.
    return [
      {
        type: 'param',
        address,
        value: clamped,
        glide: kindOf(param).mode(param) === 'switch' ? 0 : glideFrames,
      },
    ]
  }
  const setting = layout.settingAddress(target)
  return setting ? [{ type: 'setting', address: setting.address, value: plain, whole: setting.whole }] : []
}
