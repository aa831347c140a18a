/** Scratch rows of one block (128 vectors each), shared by all kernels; nothing in them outlives a call. */
const scratchMemory: usize = memory.data(16 * 2048, 16);
// @ts-ignore: decorator
@inline export function scratch(row: u32): usize {
  return scratchMemory + (row << 11);
}
