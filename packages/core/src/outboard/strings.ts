/** A string machine of six voices: saws an octave apart, slow envelopes, an ensemble of three moving lines. */
import { exactExp2, exactPower } from '../units/exact.ts'
import {
  DEVICE_FRAMES,
  type Device,
  type DeviceBlock,
  type DeviceMaker,
  type DeviceNote,
  type DeviceProcessor,
} from './device.ts'
import { Line, noiseAt, onePole, SlowWave } from './parts.ts'

const FOOTAGE = 0,
  BRIGHTNESS = 1,
  SWELL = 2,
  FALL = 3,
  ENSEMBLE = 4,
  AGE = 5,
  VOLUME = 6
const VOICES = 6
const C4 = 261.6255653005986
/** Octaves a voice is off at full age. */
const OFF = 0.008
const SILENT = 1e-5
/** Lines of the ensemble: middle and ways of the slow and the fast wave, in ms. */
const MIDDLE_MS = 6,
  SLOW_MS = 2.2,
  FAST_MS = 0.25

/** What a corner of a saw is rounded by (two-point polynomial; Välimäki & Huovilainen 2007). */
const rounding = (phase: number, step: number): number => {
  if (phase < step) {
    const t = phase / step
    return t + t - t * t - 1
  }
  if (phase > 1 - step) {
    const t = (phase - 1) / step
    return t * t + t + t + 1
  }
  return 0
}

class Voice {
  /** The module's voice that it plays; −1 where it is free. */
  owner = -1
  held = false
  level = 0
  velocity = 0
  age = 0
  private phase = 0
  private octave = 0
  constructor(private readonly number: number) {}

  begin(owner: number, velocity: number, age: number): void {
    this.owner = owner
    this.held = true
    this.velocity = velocity
    this.age = age
    if (this.level < SILENT) {
      this.phase = 0.5 + 0.5 * noiseAt(7 * this.number + 3)
      this.octave = this.phase / 2
    }
  }
  /** Octaves that this voice is off by, −1…1. */
  get offset(): number {
    return noiseAt(97 * this.number + 11)
  }
  next(step: number, footage: number): number {
    this.phase += step
    if (this.phase >= 1) this.phase -= 1
    const low = 2 * this.phase - 1 - rounding(this.phase, step)
    const twice = Math.min(0.5, 2 * step)
    this.octave += twice
    if (this.octave >= 1) this.octave -= 1
    const high = 2 * this.octave - 1 - rounding(this.octave, twice)
    return low + footage * (high - low)
  }
}

class Strings implements DeviceProcessor {
  private readonly voices = Array.from({ length: VOICES }, (_, n) => new Voice(n))
  private readonly lines: readonly Line[]
  private readonly slow: readonly SlowWave[]
  private readonly fast: readonly SlowWave[]
  private clock = 0
  private notes = 0
  private tone = 0
  private silent: number
  private readonly steps = new Float64Array(VOICES)

  constructor(private readonly sampleRate: number) {
    this.lines = [0, 1, 2].map(() => new Line(((MIDDLE_MS + SLOW_MS + FAST_MS + 1) * sampleRate) / 1000))
    this.slow = [0, 1, 2].map((n) => new SlowWave(0.61, sampleRate, n / 3))
    this.fast = [0, 1, 2].map((n) => new SlowWave(5.9, sampleRate, n / 3))
    this.silent = this.lines[0]!.frames
  }

  skip(frames: number): void {
    this.clock += frames
  }

  private play({ voice, on, velocity }: DeviceNote): void {
    if (!on) {
      for (const one of this.voices) if (one.owner === voice) one.held = false
      return
    }
    let best = this.voices[0]!
    for (const one of this.voices) {
      // Its own voice first, then one that is free, then the oldest.
      if (one.owner === voice) {
        best = one
        break
      }
      const isBetter = one.held === best.held ? one.level < best.level || one.age < best.age : !one.held
      if (isBetter) best = one
    }
    this.notes += 1
    best.begin(voice, velocity, this.notes)
  }

  private sum(rise: number, fall: number, footage: number): number {
    let y = 0
    for (let n = 0; n < VOICES; n += 1) {
      const voice = this.voices[n]!
      if (!voice.held && voice.level < SILENT) {
        voice.level = 0
        continue
      }
      voice.level += voice.held ? rise * (1 - voice.level) : -fall * voice.level
      y += voice.next(this.steps[n]!, footage) * voice.level * (0.4 + 0.6 * voice.velocity)
    }
    return 0.16 * y
  }

  private setPitches(pitches: Float32Array, age: number): void {
    this.voices.forEach((voice, n) => {
      if (voice.owner < 0) return
      const octaves = pitches[voice.owner]! + OFF * age * voice.offset
      this.steps[n] = Math.min(0.45, (C4 * exactExp2(octaves)) / this.sampleRate)
    })
  }

  process({ left, right, outLeft, outRight, values, notes, noteCount, pitches }: DeviceBlock): boolean {
    const { sampleRate, lines } = this,
      rise = onePole(0.35 / values[SWELL]!, sampleRate),
      fall = onePole(0.35 / values[FALL]!, sampleRate),
      bright = onePole(values[BRIGHTNESS]!, sampleRate),
      loud = exactPower(10, values[VOLUME]! / 20),
      ensemble = values[ENSEMBLE]!,
      perMs = sampleRate / 1000
    let next = 0
    this.setPitches(pitches, values[AGE]!)
    for (let f = 0; f < DEVICE_FRAMES; f += 1) {
      while (next < noteCount && notes[next]!.frame <= f) {
        this.play(notes[next]!)
        this.setPitches(pitches, values[AGE]!)
        next += 1
      }
      this.tone += bright * (this.sum(rise, fall, values[FOOTAGE]!) - this.tone)
      const x = loud * this.tone + 0.5 * (left[f]! + right[f]!)
      let a = 0,
        b = 0
      for (let n = 0; n < 3; n += 1) {
        lines[n]!.push(x)
        const ms =
          MIDDLE_MS + SLOW_MS * this.slow[n]!.value(this.clock) + FAST_MS * this.fast[n]!.value(this.clock)
        const y = lines[n]!.read(ms * perMs)
        a += n === 1 ? 0 : y
        b += n === 0 ? 0 : y
      }
      outLeft[f] = x + ensemble * (0.7 * a - x)
      outRight[f] = x + ensemble * (0.7 * b - x)
      this.silent = Math.abs(x) > 1e-7 ? 0 : this.silent + 1
      this.clock += 1
    }
    if (this.silent < lines[0]!.frames || this.voices.some(isHeld)) return false
    this.tone = 0
    for (const line of lines) line.clear()
    outLeft.fill(0)
    outRight.fill(0)
    return true
  }
}
const isHeld = ({ held, level }: Voice): boolean => held || level >= SILENT

export const reedStrings: Device = {
  id: 'reed-strings',
  label: 'Reed strings',
  does: 'Six voices of an old string machine with its ensemble; what comes in goes through the ensemble',
  parameters: [
    { id: 'footage', label: 'Footage', unit: '', min: 0, max: 1 },
    { id: 'brightness', label: 'Brightness', unit: 'Hz', min: 500, max: 9000, log: true },
    { id: 'swell', label: 'Swell', unit: 's', min: 0.005, max: 2, log: true },
    { id: 'fall', label: 'Fall', unit: 's', min: 0.02, max: 4, log: true },
    { id: 'ensemble', label: 'Ensemble', unit: '', min: 0, max: 1 },
    { id: 'age', label: 'Age', unit: '', min: 0, max: 1 },
    { id: 'volume', label: 'Volume', unit: 'dB', min: -24, max: 0 },
  ],
  latency: 0,
  presets: [
    {
      name: 'Chapel on the point',
      values: { footage: 0.3, swell: 0.35, fall: 1.5, ensemble: 0.8, age: 0.4 },
    },
    {
      name: 'Thin and high',
      values: { footage: 0.9, brightness: 7000, swell: 0.05, fall: 0.5, ensemble: 0.5 },
    },
    {
      name: 'Fog over water',
      values: { footage: 0.1, brightness: 1100, swell: 1.6, fall: 3.5, ensemble: 1, age: 0.8 },
    },
    { name: 'Dry and near', values: { ensemble: 0, swell: 0.02, fall: 0.15, age: 0.1 } },
  ],
}

export const makeStrings: DeviceMaker = (sampleRate) => new Strings(sampleRate)
