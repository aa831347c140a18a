/** The ops of a plan in memory: what is called, in order. */
import type { Plan, PlanOp } from '../compile/plan.ts'
import { KERNEL_NAMES } from '../generated/kernelNames.ts'
import * as abi from '../kernels/abi.ts'
import type { KernelFacts, Work } from './delta.ts'
import type { Keeping } from './keeping.ts'

export class Program {
  private readonly functionOf: ReadonlyMap<string, number>

  constructor(
    private readonly facts: KernelFacts,
    private readonly keeping: Keeping,
  ) {
    this.functionOf = new Map(KERNEL_NAMES.map((name, index) => [name, facts.functions[index]!]))
  }

  /** What prepares a segment that runs frame by frame, and what runs a frame of it. */
  private framesOf(call: string): [ready: number, frame: number] {
    return [
      this.functionOf.get(`${call}Ready`) ?? abi.NO_FUNCTION,
      this.functionOf.get(`${call}Frame`) ?? abi.NO_FUNCTION,
    ]
  }

  placeProgram(
    plan: Plan,
    instances: number[],
    adapters: number[],
    work: Work,
  ): { address: number; ops: number } {
    const rows: (readonly number[])[] = []
    const [run, ready, frame] = this.facts.adapterFunctions
    const add = (op: PlanOp): void => {
      if (op.kind === 'adapter') rows.push([run, adapters[op.adapter]!, 0, 0, ready, frame])
      else if (op.kind === 'module')
        rows.push([this.functionOf.get(op.call)!, instances[op.module]!, 1, 0, ...this.framesOf(op.call)])
      else {
        rows.push([abi.OP_LOOP, 0, op.probes.length + op.body.length, op.probes.length])
        for (const probe of op.probes)
          rows.push([this.functionOf.get(probe.call)!, instances[probe.module]!, 0, 0])
        op.body.forEach(add)
      }
    }
    plan.ops.forEach(add)
    const block = this.keeping.take(Math.max(1, rows.length) * abi.OP_BYTES, work)
    const image = work.image(block.address, block.bytes)
    rows.forEach((row, index) =>
      row.forEach((word, column) => image.u32(index * abi.OP_BYTES + column * 4, word)),
    )
    return { address: block.address, ops: rows.length }
  }

  placeList(addresses: readonly number[], work: Work): { address: number; count: number } {
    const block = this.keeping.take(4 * addresses.length + 16, work)
    const image = work.image(block.address, block.bytes)
    addresses.forEach((address, index) => image.u32(4 * index, address))
    return { address: block.address, count: addresses.length }
  }
}
