/** What the kernels export. */
export interface Kernels {
  readonly memory: WebAssembly.Memory
  prepare(): void
  heapBase(): number
  zeroSignal(): number
  oneSignal(): number
  /** 0 run, 1 ready for running frame by frame, 2 run a frame. */
  adapterFunction(which: number): number
  kernelFunction(index: number): number
  setRate(rate: number): void
  setTime(frame: number): void
  setOversampling(factor: number): void
  setTransport(beats: number, perFrame: number, frame: number, running: number, starts: number): void
  setOuterClock(beats: number, perFrame: number, frame: number, running: number, starts: number): void
  runOp(program: number, index: number, frames: number): number
  beginOps(frames: number): void
  endOps(adapters: number, adapterCount: number, frames: number): void
  wake(): void
  allowRest(allowed: number): void
  countSteals(steals: number, frames: number): number
  run(program: number, ops: number, adapters: number, adapterCount: number, frames: number): void
  guard(instances: number, count: number, lastFrame: number): number
  watch(signal: number, lane: number, ring: number, position: number, frames: number): void
  setParam(param: number, value: number, glide: number): void
  setAmount(term: number, amount: number, frames: number): void
  paramHeard(param: number): number
  setMovingList(list: number, count: number): void
  listParam(param: number): void
  busOf(pair: number): number
  /** 128 samples of the left side, then of the right. */
  planeOf(pair: number): number
  clearBuses(frames: number): void
  resetGuard(pair: number, fade: number): void
  fadeIn(pair: number): void
  guardOutput(pair: number, frames: number, active: number): void
  limitedFrames(pair: number): number
  isStopped(pair: number): number
  leastGain(pair: number): number
  curveAt(x: number, curve: number): number
  /** A fixed piece of work, of 8 × 128 voice-samples: what costs are counted in. */
  referenceBlock(): void
  readonly GUARD_LATENCY: { readonly value: number }
}
