/** What a layout has to know of the kernels: where their own memory ends, and which functions they are. */
import { KERNEL_NAMES } from '../generated/kernelNames.ts'
import type { KernelFacts } from './delta.ts'
import type { Kernels } from './kernel-exports.ts'

export const factsOf = (kernels: Kernels): KernelFacts => ({
  heapBase: kernels.heapBase(),
  zeroSignal: kernels.zeroSignal(),
  oneSignal: kernels.oneSignal(),
  adapterFunctions: [kernels.adapterFunction(0), kernels.adapterFunction(1), kernels.adapterFunction(2)],
  functions: KERNEL_NAMES.map((_name, index) => kernels.kernelFunction(index)),
})

/** The same of kernels that run elsewhere: nothing of them is prepared, and no device is there. */
export const readFacts = (module: WebAssembly.Module): KernelFacts =>
  factsOf(
    new WebAssembly.Instance(module, { env: {}, outboard: { run: () => 1 } }).exports as unknown as Kernels,
  )
