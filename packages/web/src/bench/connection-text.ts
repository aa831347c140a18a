/** Connections as they are typed: `osc saw > filter in * 0.5`. */
import { descriptionOf, isSignalParam, labelOf, rowTarget, type Patch, type SignalKind } from '@ypsilon/core'

/** A port by name. */
export interface End {
  /** `osc.saw` */
  readonly target: string
  readonly text: string
  readonly kind: SignalKind
}

export const outputsOf = (patch: Patch): End[] =>
  patch.modules.flatMap((module) =>
    (descriptionOf(module)?.outputs ?? []).map((port) => ({
      target: `${module.id}.${port.name}`,
      text: `${labelOf(patch, module.id)} ${port.name}`,
      kind: port.kind,
    })),
  )

export const inputsOf = (patch: Patch): End[] =>
  patch.modules.flatMap((module): End[] => {
    const description = descriptionOf(module)
    const end = (name: string, kind: SignalKind): End => ({
      target: rowTarget(module.id, name),
      text: `${labelOf(patch, module.id)} ${name}`,
      kind,
    })
    return [
      ...(description?.inputs ?? []).map((port) => end(port.name, port.kind)),
      ...(description?.params ?? []).filter(isSignalParam).map((param) => end(param.name, 'control')),
    ]
  })

export interface TypedConnection {
  readonly from: string
  /** Left out until there is a `>`. */
  readonly to: string | undefined
  /** What stands after `*`, as typed. */
  readonly amount: string | undefined
}

/** What stands before `>`, after it, and after `*`. */
export const readConnection = (line: string): TypedConnection => {
  const [from = '', ...rest] = line.split('>')
  const after = rest.length === 0 ? undefined : rest.join('>')
  const star = after?.search(/[*×]/) ?? -1
  return {
    from: from.trim(),
    to: (star < 0 ? after : after!.slice(0, star))?.trim(),
    amount: star < 0 ? undefined : after!.slice(star + 1).trim() || undefined,
  }
}

const words = (text: string): string[] =>
  text
    .toLowerCase()
    .split(/[\s.]+/)
    .filter(Boolean)
/** Every typed word begins a word of the end's id or label, in order. */
const fits = (end: End, typed: string): boolean => {
  const names = [...words(end.target), ...words(end.text)]
  return words(typed).every((word) => names.some((name) => name.startsWith(word)))
}
/** Exact names first: "osc saw" is osc.saw, whatever else begins like it. */
export const ranked = (ends: readonly End[], typed: string): End[] => {
  const exact = words(typed).join('.')
  return ends
    .filter((end) => fits(end, typed))
    .sort((a, b) => Number(b.target.toLowerCase() === exact) - Number(a.target.toLowerCase() === exact))
}
