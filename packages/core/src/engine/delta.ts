/** The difference between two plans in memory, and what it is gathered in. */
import type { NoteSource } from '../notes/source.ts'
import type { Block } from './memory.ts'

/**
 * What the audio side needs to take over a plan: bytes and addresses, nothing to think about. Everything long is one
 * typed array, so that it crosses to the audio thread without being copied piece by piece.
 */
export interface Delta {
  /** The memory must be this large. */
  readonly memoryBytes: number
  /** Fill with zero, in bounded steps: address, bytes, … */
  readonly zero: Uint32Array
  /** Write, in bounded steps, beside everything that runs: address, offset in `bytes`, length, … */
  readonly writes: Uint32Array
  readonly bytes: Uint8Array
  /** At the swap: copy state that moved: from, to, bytes, … */
  readonly copies: Uint32Array
  /** At the swap: single words that running things read: address, value, … */
  readonly words: Uint32Array
  /** At the swap: records of parameters without cables; the first `freshStatics` of them are new. */
  readonly statics: Uint32Array
  readonly freshStatics: number
  /** After the swap: values that changed with the plan, to be smoothed. */
  readonly params: readonly (readonly [param: number, value: number])[]
  readonly amounts: readonly (readonly [term: number, amount: number])[]
  readonly program: { readonly address: number; readonly ops: number }
  readonly adapters: { readonly address: number; readonly count: number }
  readonly instances: { readonly address: number; readonly count: number }
  /** State and further memory of everything but players and sequences: address, bytes, … Cleared by silence. */
  readonly sounding: Uint32Array
  readonly moving: number
  readonly notes: readonly NoteSource[]
  readonly inputs: readonly number[]
  readonly outputPairs: readonly number[]
  /** An output was re-patched from nothing: fade in. */
  readonly fadeIn: boolean
  readonly tempo: number
  readonly tuning: readonly number[] | undefined
}

/** What the engine's wasm module tells about itself once. */
export interface KernelFacts {
  readonly heapBase: number
  readonly zeroSignal: number
  readonly oneSignal: number
  /** Run, ready for running frame by frame, run a frame. */
  readonly adapterFunctions: readonly [number, number, number]
  /** Table index of every kernel function, in the order of KERNEL_NAMES. */
  readonly functions: readonly number[]
}

/** A stretch of memory being written: little-endian words. */
export class Image {
  readonly bytes: Uint8Array
  private readonly view: DataView
  constructor(
    readonly address: number,
    size: number,
  ) {
    this.bytes = new Uint8Array(size)
    this.view = new DataView(this.bytes.buffer)
  }
  u32(at: number, value: number): void {
    this.view.setUint32(at, value, true)
  }
  f32(at: number, value: number): void {
    this.view.setFloat32(at, value, true)
  }
}

/** What one call of `next` gathers. */
export class Work {
  readonly zero: [number, number][] = []
  readonly write: Image[] = []
  readonly copy: [number, number, number][] = []
  readonly words: [number, number][] = []
  readonly params: [number, number][] = []
  readonly statics: number[] = []
  readonly freshStatics: number[] = []
  readonly freshSignals = new Set<number>()
  readonly replaced: Block[] = []
  readonly tables = new Set<Float32Array>()
  image(address: number, bytes: number): Image {
    const image = new Image(address, bytes)
    this.write.push(image)
    return image
  }
}

/** Longer images are written in pieces, so that no block does much of it. */
const LARGEST_WRITE = 16384

/** All images in one array, and where each goes. */
export const packed = (images: readonly Image[]): { writes: Uint32Array; bytes: Uint8Array } => {
  const bytes = new Uint8Array(images.reduce((sum, image) => sum + image.bytes.length, 0))
  const writes: number[] = []
  let offset = 0
  for (const image of images) {
    bytes.set(image.bytes, offset)
    for (let done = 0; done < image.bytes.length; done += LARGEST_WRITE)
      writes.push(image.address + done, offset + done, Math.min(LARGEST_WRITE, image.bytes.length - done))
    offset += image.bytes.length
  }
  return { writes: Uint32Array.from(writes), bytes }
}
