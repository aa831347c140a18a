/** What comes with a plan: words, data and bypasses on their way. */
import { patchIndex } from '../patch/index.ts'
import type { ParamValue } from '../patch/types.ts'
import { own } from '../units/own.ts'
import type { Moment } from './moment.ts'
import type { Recall } from './recall.ts'

type Lists = Readonly<Record<string, unknown>>

/** All that waits at one time comes in one plan. */
export class Coming {
  readonly values = new Map<string, ParamValue>()
  readonly data = new Map<string, Lists | undefined>()
  readonly bypass = new Map<string, boolean | undefined>()

  get isEmpty(): boolean {
    return this.values.size + this.data.size + this.bypass.size === 0
  }
  take(other: Coming): void {
    for (const [target, value] of other.values) this.values.set(target, value)
    for (const [id, lists] of other.data) this.data.set(id, lists)
    for (const [id, value] of other.bypass) this.bypass.set(id, value)
  }
  /** The same targets as they stand now, to go back to. */
  standing(moment: Moment): Coming {
    const { values, data, bypass } = moment.moves(),
      was = new Coming()
    for (const target of this.values.keys())
      was.values.set(target, own(values, target) ?? moment.loaded(target) ?? 0)
    for (const id of this.data.keys()) was.data.set(id, own(data, id))
    for (const id of this.bypass.keys()) was.bypass.set(id, own(bypass, id))
    return was
  }
  /** All of it comes, but for what is no longer there. */
  arrive(moment: Moment): void {
    const { module: modules } = patchIndex(moment.set)
    for (const [target, value] of this.values)
      if (moment.loaded(target) !== undefined) moment.move(target, value)
    for (const [id, lists] of this.data) if (modules.has(id)) moment.moveData(id, lists)
    for (const [id, value] of this.bypass) if (modules.has(id)) moment.moveBypass(id, value)
  }
  /** What another move decides anew waits no longer. */
  forget({ numbers, words, data, bypass }: Recall): void {
    for (const target of [...numbers.keys(), ...words.keys()]) this.values.delete(target)
    for (const id of data.keys()) this.data.delete(id)
    for (const id of bypass.keys()) this.bypass.delete(id)
  }
}
