/** The engine's wasm module, with the devices that it calls. */
import { Rack } from '../outboard/rack.ts'
import type { Kernels } from './kernel-exports.ts'

export const instantiate = (module: WebAssembly.Module, sampleRate: number): Kernels => {
  const { run } = new Rack(() => kernels.memory.buffer, sampleRate)
  const kernels = new WebAssembly.Instance(module, { env: {}, outboard: { run } })
    .exports as unknown as Kernels
  return kernels
}
