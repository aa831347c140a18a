/** A worn tape echo: one track, up to three heads, a motor that is not steady, a tape that has been round too often. */
import { exactPower } from '../units/exact.ts'
import {
  DEVICE_FRAMES,
  type Device,
  type DeviceBlock,
  type DeviceMaker,
  type DeviceProcessor,
} from './device.ts'
import { AUDIBLE, bent, Line, noiseAt, onePole, SlowWave } from './parts.ts'

const LONGEST_MS = 900
const DISTANCE = 0,
  REPEATS = 1,
  WEAR = 2,
  HEAT = 3,
  TONE = 4,
  HEADS = 5,
  BLEND = 6
/** How far the motor is off at full wear, as shares of the time; hiss at full wear. */
const WOW = 0.004,
  FLUTTER = 0.0009,
  HISS = 0.002
/** The motor takes this long to come to another speed. */
const MOTOR_HERTZ = 1.2
const LOWEST_HERTZ = 60

class Echo implements DeviceProcessor {
  private readonly tape: Line
  private readonly wow: SlowWave
  private readonly flutter: SlowWave
  private readonly motor: number
  private readonly below: number
  private clock = 0
  private distance = -1
  private tone = 0
  private low = 0
  private level = 0
  private silent: number

  constructor(private readonly sampleRate: number) {
    this.tape = new Line((1.02 * LONGEST_MS * sampleRate) / 1000)
    this.wow = new SlowWave(0.55, sampleRate)
    this.flutter = new SlowWave(6.7, sampleRate, 0.3)
    this.motor = onePole(MOTOR_HERTZ, sampleRate)
    this.below = onePole(LOWEST_HERTZ, sampleRate)
    this.silent = 2 * this.tape.frames
  }

  skip(frames: number): void {
    this.clock += frames
  }

  /** What comes from the heads, all together. */
  private heard(heads: number, wear: number): number {
    const off = 1 + wear * (WOW * this.wow.value(this.clock) + FLUTTER * this.flutter.value(this.clock))
    const far = this.distance * off
    let sum = 0
    for (let n = 1; n <= heads; n += 1) sum += this.tape.read((far * n) / heads)
    return sum / Math.sqrt(heads)
  }

  process({ left, right, outLeft, outRight, values }: DeviceBlock): boolean {
    const { sampleRate, tape } = this,
      goal = (values[DISTANCE]! * sampleRate) / 1000,
      wear = values[WEAR]!,
      heat = exactPower(10, values[HEAT]! / 20),
      dull = onePole(values[TONE]! * (1 - 0.4 * wear), sampleRate),
      blend = values[BLEND]!
    // Nothing is on the tape: nobody hears the motor change its speed.
    if (this.isQuiet || this.distance < 0) this.distance = goal
    for (let n = 0; n < DEVICE_FRAMES; n += 1) {
      const x = 0.5 * (left[n]! + right[n]!)
      this.distance += this.motor * (goal - this.distance)
      let y = this.heard(values[HEADS]!, wear)
      this.level += 0.001 * (Math.abs(y) - this.level)
      y += HISS * wear * noiseAt(this.clock) * Math.min(1, 20 * this.level)
      this.tone += dull * (y - this.tone)
      this.low += this.below * (this.tone - this.low)
      const wet = this.tone - this.low
      const written = bent(heat * (x + values[REPEATS]! * wet)) / heat
      this.silent = Math.abs(written) > AUDIBLE ? 0 : this.silent + 1
      tape.push(this.silent > 0 ? 0 : written)
      outLeft[n] = left[n]! + blend * (wet - left[n]!)
      outRight[n] = right[n]! + blend * (wet - right[n]!)
      this.clock += 1
    }
    if (!this.isQuiet) return false
    this.tone = 0
    this.low = 0
    this.level = 0
    for (let n = 0; n < DEVICE_FRAMES; n += 1) {
      outLeft[n] = left[n]! * (1 - blend)
      outRight[n] = right[n]! * (1 - blend)
    }
    return true
  }

  private get isQuiet(): boolean {
    return this.silent >= this.tape.frames
  }
}

export const wornEcho: Device = {
  id: 'worn-echo',
  label: 'Worn tape echo',
  does: 'One track and up to three heads; the motor wanders, the tape has been round too often',
  parameters: [
    { id: 'distance', label: 'Distance', unit: 'ms', min: 60, max: LONGEST_MS, log: true },
    { id: 'repeats', label: 'Repeats', unit: '', min: 0, max: 1.05 },
    { id: 'wear', label: 'Wear', unit: '', min: 0, max: 1 },
    { id: 'heat', label: 'Heat', unit: 'dB', min: 0, max: 24 },
    { id: 'tone', label: 'Tone', unit: 'Hz', min: 800, max: 9000, log: true },
    { id: 'heads', label: 'Heads', unit: '', min: 1, max: 3, whole: true },
    { id: 'blend', label: 'Blend', unit: '', min: 0, max: 1 },
  ],
  latency: 0,
  presets: [
    {
      name: 'Log of the harbour master',
      values: { distance: 320, repeats: 0.45, wear: 0.6, heads: 1, blend: 0.4 },
    },
    { name: 'Three heads in fog', values: { distance: 640, repeats: 0.5, tone: 2200, heads: 3, blend: 0.4 } },
    {
      name: 'Runs away',
      values: { distance: 210, repeats: 1.02, heat: 14, wear: 0.8, heads: 1, blend: 0.35 },
    },
    { name: 'Close to the wall', values: { distance: 75, repeats: 0.2, wear: 0.2, heads: 1, blend: 0.35 } },
  ],
}

export const makeEcho: DeviceMaker = (sampleRate) => new Echo(sampleRate)
