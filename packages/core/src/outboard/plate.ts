/** A plate in another room, heard through a door: eight lines that feed one another without loss but what the ring asks for. */
import { exactPower } from '../units/exact.ts'
import {
  DEVICE_FRAMES,
  type Device,
  type DeviceBlock,
  type DeviceMaker,
  type DeviceProcessor,
} from './device.ts'
import { AUDIBLE, Line, onePole } from './parts.ts'

const RING = 0,
  BRIGHTNESS = 1,
  WALK = 2,
  DOOR = 3,
  WIDTH = 4,
  BLEND = 5
/** Lengths of the lines in ms, and of the all-passes before them. */
const LENGTHS = [11.83, 13.41, 15.37, 17.93, 19.79, 22.31, 25.07, 28.73],
  SPREADS = [2.31, 3.79, 5.17]
const SPREAD_GAIN = 0.62
const LONGEST_WALK_MS = 120
const MIX = Math.SQRT1_2 / 2
/** As loud as what comes in, about, at a ring of so many seconds; what rings longer is made softer. */
const LOUD = 0.5,
  LOUD_RING = 1.8

class AllPass {
  private readonly line: Line
  constructor(private readonly frames: number) {
    this.line = new Line(frames)
  }
  next(x: number): number {
    const past = this.line.read(this.frames),
      inside = x + SPREAD_GAIN * past
    this.line.push(inside)
    return past - SPREAD_GAIN * inside
  }
  clear(): void {
    this.line.clear()
  }
}

class Plate implements DeviceProcessor {
  private readonly walk: Line
  private readonly spreads: readonly AllPass[]
  private readonly lines: readonly Line[]
  private readonly frames: readonly number[]
  private readonly dull = new Float64Array(8)
  private readonly state = new Float64Array(8)
  private readonly keep = new Float64Array(8)
  private way = -1
  private door = 0
  private otherDoor = 0
  private silent: number
  private readonly longest: number

  constructor(private readonly sampleRate: number) {
    const framesOf = (ms: number): number => Math.round((ms * sampleRate) / 1000)
    this.walk = new Line(framesOf(LONGEST_WALK_MS))
    this.spreads = SPREADS.map((ms) => new AllPass(framesOf(ms)))
    this.frames = LENGTHS.map(framesOf)
    this.lines = this.frames.map((frames) => new Line(frames))
    this.longest = this.walk.frames + 4 * framesOf(LENGTHS[7]!)
    this.silent = this.longest
  }

  skip(): void {
    // Nothing in it moves by itself.
  }

  private ring(x: number, dull: number): void {
    const { lines, frames, state, keep } = this
    let sum = 0
    for (let n = 0; n < 8; n += 1) {
      const y = lines[n]!.read(frames[n]!)
      this.dull[n]! += dull * (y - this.dull[n]!)
      state[n] = this.dull[n]! * keep[n]!
      sum += Math.abs(y)
    }
    this.silent = sum > AUDIBLE || Math.abs(x) > AUDIBLE ? 0 : this.silent + 1
    // Three rounds of sums and differences: an orthogonal matrix.
    for (let step = 1; step < 8; step *= 2)
      for (let n = 0; n < 8; n += 1) {
        if (n & step) continue
        const a = state[n]!,
          b = state[n + step]!
        state[n] = a + b
        state[n + step] = a - b
      }
    for (let n = 0; n < 8; n += 1) lines[n]!.push(MIX * state[n]! + (n & 1 ? -x : x))
  }

  process({ left, right, outLeft, outRight, values }: DeviceBlock): boolean {
    const { sampleRate } = this,
      dull = onePole(values[BRIGHTNESS]!, sampleRate),
      door = onePole(values[DOOR]!, sampleRate),
      goal = 1 + (values[WALK]! * sampleRate) / 1000,
      blend = values[BLEND]!,
      loud = LOUD * Math.sqrt(LOUD_RING / values[RING]!),
      width = values[WIDTH]!,
      pace = onePole(3, sampleRate)
    if (this.isQuiet || this.way < 0) this.way = goal
    for (let n = 0; n < 8; n += 1)
      this.keep[n] = exactPower(10, (-3 * this.frames[n]!) / (values[RING]! * sampleRate))
    for (let n = 0; n < DEVICE_FRAMES; n += 1) {
      this.way += pace * (goal - this.way)
      const come = 0.5 * (left[n]! + right[n]!)
      this.walk.push(come)
      let x = this.walk.read(this.way)
      for (const spread of this.spreads) x = spread.next(x)
      this.ring(0.35 * x, dull)
      // What is still on its way there is not silence.
      if (Math.abs(come) > AUDIBLE) this.silent = 0
      const { state } = this
      this.door += door * (loud * (state[0]! + state[2]! + state[5]!) - this.door)
      this.otherDoor += door * (loud * (state[1]! + state[3]! - state[6]!) - this.otherDoor)
      const middle = 0.5 * (this.door + this.otherDoor),
        side = 0.5 * width * (this.door - this.otherDoor)
      outLeft[n] = left[n]! + blend * (middle + side - left[n]!)
      outRight[n] = right[n]! + blend * (middle - side - right[n]!)
    }
    if (!this.isQuiet) return false
    this.clear()
    for (let n = 0; n < DEVICE_FRAMES; n += 1) {
      outLeft[n] = left[n]! * (1 - blend)
      outRight[n] = right[n]! * (1 - blend)
    }
    return true
  }

  private clear(): void {
    for (const line of this.lines) line.clear()
    for (const spread of this.spreads) spread.clear()
    this.walk.clear()
    this.dull.fill(0)
    this.state.fill(0)
    this.door = 0
    this.otherDoor = 0
  }

  private get isQuiet(): boolean {
    return this.silent >= this.longest
  }
}

export const farPlate: Device = {
  id: 'far-plate',
  label: 'Plate in another room',
  does: 'A large sheet of steel down the corridor, heard through a door',
  parameters: [
    { id: 'ring', label: 'Ring', unit: 's', min: 0.4, max: 8, log: true },
    { id: 'brightness', label: 'Brightness', unit: 'Hz', min: 1000, max: 12000, log: true },
    { id: 'walk', label: 'Walk', unit: 'ms', min: 0, max: LONGEST_WALK_MS },
    { id: 'door', label: 'Door', unit: 'Hz', min: 400, max: 12000, log: true },
    { id: 'width', label: 'Width', unit: '', min: 0, max: 1 },
    { id: 'blend', label: 'Blend', unit: '', min: 0, max: 1 },
  ],
  latency: 0,
  presets: [
    { name: 'Door ajar', values: { ring: 2.2, walk: 20, door: 5000, blend: 0.35 } },
    { name: 'Down the corridor', values: { ring: 3.5, walk: 90, door: 1200, width: 0.3, blend: 0.5 } },
    {
      name: 'In the same room',
      values: { ring: 1.6, brightness: 11000, walk: 0, door: 12000, width: 1, blend: 0.3 },
    },
    { name: 'All night', values: { ring: 8, brightness: 2500, walk: 40, door: 3000, blend: 0.7 } },
  ],
}

export const makePlate: DeviceMaker = (sampleRate) => new Plate(sampleRate)
