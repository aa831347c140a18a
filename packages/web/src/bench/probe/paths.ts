/** Ways a response can be measured along: from which inputs a signal comes. */
import { descriptionOf, endWords, type Patch, patchIndex, splitTarget } from '@ypsilon/core'
import { cablesTo } from '../cable-index.ts'
import { outputSource } from './source.ts'
import { OUTPUT_TARGET } from '../../store/probe.ts'

export interface PathStart {
  /** `filter.in` */
  readonly from: string
  readonly words: string
}

const MOST = 40

/** The output a response is taken from: that of the target, or what goes into the output. */
export const pathEnd = (patch: Patch, target: string, tap: string | undefined): string | undefined =>
  target === OUTPUT_TARGET ? outputSource(patch) : tap

/** Sound inputs from which there is a way to an output, the nearest first. */
export const pathStarts = (patch: Patch, to: string | undefined): readonly PathStart[] => {
  const { module: modules } = patchIndex(patch)
  const seen = new Set<string>(),
    queue = [splitTarget(to ?? '')?.[0] ?? ''],
    found: PathStart[] = []
  for (let id = queue.shift(); id !== undefined && found.length < MOST; id = queue.shift()) {
    const module = modules.get(id),
      description = module && descriptionOf(module)
    if (!description || seen.has(id)) continue
    seen.add(id)
    for (const { name, kind } of description.inputs) {
      const from = `${id}.${name}`
      if (kind === 'audio') found.push({ from, words: endWords(patch, from) })
      for (const cable of cablesTo(patch, from)) queue.push(splitTarget(cable.from)?.[0] ?? '')
    }
  }
  return found
}
