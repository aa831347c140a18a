/** What lies over a patch for the moment: where controls, snapshots and blends have taken it since it was set. */
import { patchIndex } from '../patch/index.ts'
import { asEffective, effectivePatch, macroMoves, ownership } from '../patch/macros.ts'
import { overlaid, type Overlay } from '../patch/overlay.ts'
import type { Moves } from '../patch/document.ts'
import { setValueOf } from '../patch/targets.ts'
import type { ParamValue, Patch } from '../patch/types.ts'

type Lists = Readonly<Record<string, unknown>>

export const overlayOf = (moves: Moves): Overlay => ({
  values: new Map(Object.entries(moves.values)),
  data: new Map(Object.entries(moves.data)),
  bypass: new Map(Object.entries(moves.bypass)),
})

/** A patch as it is set, and what was moved since. */
export class Moment {
  private readonly values = new Map<string, ParamValue>()
  private readonly data = new Map<string, Lists>()
  private readonly bypass = new Map<string, boolean>()
  private made: Patch | undefined

  constructor(private patch: Patch) {}

  /** The document: set values. */
  get set(): Patch {
    return this.patch
  }
  get isEmpty(): boolean {
    return this.values.size + this.data.size + this.bypass.size === 0
  }

  /** The patch as it is heard. */
  heard(): Patch {
    this.made ??= this.isEmpty
      ? effectivePatch(this.patch)
      : asEffective(
          overlaid(effectivePatch(this.patch), { values: this.values, data: this.data, bypass: this.bypass }),
        )
    return this.made
  }

  /** What is heard of one target; undefined where there is no such target. */
  valueOf(target: string): ParamValue | undefined {
    return this.values.get(target) ?? this.loaded(target)
  }
  /** What a target had when the patch was loaded: what its macro gives it, or what is set. */
  loaded(target: string): ParamValue | undefined {
    return setValueOf(effectivePatch(this.patch), target)
  }
  /** Is it somewhere else than where loading puts it? */
  isMoved(target: string): boolean {
    return this.values.has(target)
  }
  dataOf(id: string): Lists | undefined {
    return this.data.get(id)
  }
  bypassOf(id: string): boolean | undefined {
    return this.bypass.get(id)
  }

  move(target: string, value: ParamValue): void {
    if (value === this.loaded(target)) this.values.delete(target)
    else this.values.set(target, value)
    this.made = undefined
  }
  moveData(id: string, lists: Lists | undefined): void {
    if (lists === undefined) this.data.delete(id)
    else this.data.set(id, lists)
    this.made = undefined
  }
  moveBypass(id: string, value: boolean | undefined): void {
    if (value === undefined) this.bypass.delete(id)
    else this.bypass.set(id, value)
    this.made = undefined
  }

  /** Another document: what was moved stays moved, but for what is gone. `keeps` says of each target. */
  replace(patch: Patch, keeps: (target: string) => boolean): void {
    const { patch: before } = this
    this.patch = patch
    this.made = undefined
    if (before.macros !== patch.macros) this.followMacros(before, keeps)
    for (const [target, value] of [...this.values]) {
      const loaded = this.loaded(target)
      if (loaded === undefined || loaded === value || !keeps(target)) this.values.delete(target)
    }
    for (const id of [...this.data.keys()]) if (!keeps(`${id}.*`)) this.data.delete(id)
    for (const id of [...this.bypass.keys()]) if (!keeps(`${id}.*`)) this.bypass.delete(id)
    this.made = undefined
  }

  /** Nothing is moved but this. */
  become({ values, data, bypass }: Moves): void {
    this.values.clear()
    this.data.clear()
    this.bypass.clear()
    for (const [target, value] of Object.entries(values)) this.move(target, value)
    for (const [id, lists] of Object.entries(data)) this.moveData(id, lists)
    for (const [id, value] of Object.entries(bypass)) this.moveBypass(id, value)
    this.made = undefined
  }

  /** Macros have changed: those that were moved give their targets what they mean now. */
  private followMacros(before: Patch, keeps: (target: string) => boolean): void {
    const owners = [ownership(before).owner, ownership(this.patch).owner]
    const { macro: macros } = patchIndex(this.patch)
    const moved = new Map<string, number>()
    for (const [target, value] of [...this.values]) {
      const id = target.startsWith('macro:') ? target.slice(6) : undefined
      if (id !== undefined && macros.has(id) && keeps(target)) moved.set(id, Number(value))
      if (id !== undefined || owners.some((owner) => owner.has(target))) this.values.delete(target)
    }
    for (const [target, value] of macroMoves(this.patch, moved)) this.move(target, value)
  }

  moves(): Moves {
    return {
      values: Object.fromEntries(this.values),
      data: Object.fromEntries(this.data),
      bypass: Object.fromEntries(this.bypass),
    }
  }
}

/** Is a module there in both, with the same data and bypass? */
export const keepsModule = (before: Patch, after: Patch, id: string): boolean => {
  const [a, b] = [patchIndex(before).module.get(id), patchIndex(after).module.get(id)]
  return b !== undefined && a?.data === b.data && (a?.bypass === true) === (b.bypass === true)
}
