/**
 * What a processor from outside looks like to the engine, whoever made it: a list of parameters in its own units, a delay,
 * presets, and a function that is called once for every block of 128 frames, in the engine's own thread.
 */

export const DEVICE_FRAMES = 128

export interface DeviceParameter {
  /** Never changes: patches hold it. */
  readonly id: string
  readonly label: string
  readonly unit: string
  readonly min: number
  readonly max: number
  /** Equal ways are equal ratios. */
  readonly log?: boolean
  /** Whole numbers only. */
  readonly whole?: boolean
}

/** A note of one of the module's voices, at a frame of the block; pitch in octaves from C4, velocity 0…1. */
export interface DeviceNote {
  frame: number
  voice: number
  on: boolean
  pitch: number
  velocity: number
}

/** What a device is given for a block, and where it puts its sound. The same object at every call: nothing is allocated. */
export interface DeviceBlock {
  readonly left: Float32Array
  readonly right: Float32Array
  readonly outLeft: Float32Array
  readonly outRight: Float32Array
  /** Values in the device's own units, in the order of its parameters. */
  readonly values: Float64Array
  readonly notes: readonly DeviceNote[]
  noteCount: number
  /** Pitches of the module's voices now. */
  readonly pitches: Float32Array
}

export interface DeviceProcessor {
  /** True where nothing sounds in it any more and silence would come out for as long as silence goes in. */
  process: (block: DeviceBlock) => boolean
  /** Frames passed in which it was not called, as nothing sounded in it. */
  skip: (frames: number) => void
}

export interface Device {
  readonly id: string
  readonly label: string
  /** In one line, for whoever chooses. */
  readonly does: string
  readonly parameters: readonly DeviceParameter[]
  /** Frames by which it is late, besides the block that every device is. */
  readonly latency: number
  /** Values by parameter; what is left out stands in the middle. */
  readonly presets: readonly { readonly name: string; readonly values: Readonly<Record<string, number>> }[]
}

/** Makes a processor for a rate; apart from what a device says of itself, which is all that a page needs. */
export type DeviceMaker = (sampleRate: number) => DeviceProcessor

/** A value from a share of a parameter's way, 0…1. */
export const valueAt = ({ min, max, log, whole }: DeviceParameter, share: number): number => {
  const at = Math.min(1, Math.max(0, share))
  const value = log ? min * ratioTo(max / min, at) : min + (max - min) * at
  return whole ? Math.round(value) : value
}

/** ratio^share with + − × ÷ √ alone: the share as twelve halvings. */
const ratioTo = (ratio: number, share: number): number => {
  let result = 1,
    root = ratio,
    rest = share
  for (let n = 0; n < 24; n += 1) {
    root = Math.sqrt(root)
    rest *= 2
    if (rest >= 1) {
      result *= root
      rest -= 1
    }
  }
  return share >= 1 ? ratio : result
}

/** The share of a parameter's way at which a value stands. */
export const shareAt = (parameter: DeviceParameter, value: number): number => {
  if (value <= parameter.min) return 0
  if (value >= parameter.max) return 1
  let low = 0,
    high = 1
  for (let n = 0; n < 40; n += 1) {
    const middle = (low + high) / 2
    if (valueAt({ ...parameter, whole: false }, middle) < value) low = middle
    else high = middle
  }
  return (low + high) / 2
}
