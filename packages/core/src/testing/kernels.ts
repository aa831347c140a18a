import { readFileSync } from 'node:fs'

let module: WebAssembly.Module | undefined
/** The compiled kernels, for tests. */
export const testKernels = (): WebAssembly.Module =>
  (module ??= new WebAssembly.Module(
    readFileSync(new URL('../generated/kernels.wasm', import.meta.url)) as unknown as BufferSource,
  ))
