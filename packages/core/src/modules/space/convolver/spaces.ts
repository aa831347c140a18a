/** Places around Marram Point as impulse responses, worked out: first echoes, a tail whose highs go first, and what rings. */
import type { AssetSound } from '../../../describe/types.ts'
import { Dice } from '../../../units/dice.ts'
import { exactCosine, exactPower } from '../../../units/exact.ts'

interface Space {
  readonly seconds: number
  /** Echoes: when in ms, level, side from −1 to 1, and the ms each is smeared over. */
  readonly echoes: readonly (readonly [ms: number, level: number, side: number, smear: number])[]
  /** Noise from `ms` on that loses 60 dB in `decay` seconds; its low-pass closes from `bright` to `dull`, 0…1. */
  readonly tail: {
    readonly ms: number
    readonly level: number
    readonly decay: number
    readonly bright: number
    readonly dull: number
  }
  /** What rings: hertz, seconds until 60 dB are lost, level. */
  readonly modes: readonly (readonly [hertz: number, decay: number, level: number])[]
}

/** Bounces between two walls: every `ms`, each `keep` times the one before. */
const bounces = (count: number, ms: number, keep: number, smear: number): Space['echoes'] =>
  Array.from({ length: count }, (_, n) => [
    ms * (n + 1) + (n % 3) * 0.31,
    keep ** n * (n % 2 ? 0.8 : 1),
    n % 2 ? 0.4 : -0.4,
    smear * (n + 1),
  ])

const SPACES: ReadonlyMap<string, Space> = new Map(
  Object.entries<Space>({
    'slipway-shed': {
      seconds: 1.6,
      echoes: [
        [2.1, 1, -0.2, 0.1],
        [5.3, 0.8, 0.5, 0.2],
        [8.9, 0.7, -0.7, 0.3],
        [13.7, 0.55, 0.8, 0.5],
        [19.3, 0.5, -0.4, 0.9],
        [27.1, 0.4, 0.1, 1.4],
      ],
      tail: { ms: 9, level: 0.16, decay: 1.3, bright: 1, dull: 0.3 },
      modes: [
        [212, 0.6, 0.002],
        [347, 0.5, 0.0025],
        [583, 0.4, 0.0025],
      ],
    },
    stairwell: {
      seconds: 3.6,
      echoes: bounces(14, 11.7, 0.84, 0.015),
      tail: { ms: 16, level: 0.11, decay: 3.1, bright: 1, dull: 0.34 },
      modes: [],
    },
    boiler: {
      seconds: 2.2,
      echoes: bounces(9, 3.3, 0.8, 0.1),
      tail: { ms: 4, level: 0.1, decay: 0.9, bright: 1, dull: 0.5 },
      modes: [233, 318, 421, 547, 689, 874, 1093, 1361, 1687, 2089, 2593, 3181, 3907].map((hertz, n) => [
        hertz,
        1.7 / (1 + 0.2 * n),
        0.0007 * (1 + 0.55 * n),
      ]),
    },
    cliff: {
      seconds: 2.8,
      echoes: [
        [3.2, 1, 0, 0],
        [187, 0.4, -0.5, 9],
        [263, 0.34, 0.4, 14],
        [391, 0.27, -0.2, 22],
        [578, 0.18, 0.5, 34],
        [842, 0.11, -0.5, 52],
      ],
      tail: { ms: 60, level: 0.022, decay: 2.4, bright: 0.8, dull: 0.25 },
      modes: [],
    },
  }),
)

/** Seconds between both ears, at the most; what walls and ground swallow, in hertz; which echoes are turned round. */
const APART = 0.0006,
  LOWEST = 130,
  SIGNS = 5

export const SPACE_NAMES: readonly string[] = [...SPACES.keys()]

/** Shares of a level on both sides, of equal power. */
const sidesOf = (side: number): readonly [number, number] => [
  Math.sqrt((1 - side) / 2),
  Math.sqrt((1 + side) / 2),
]

/** Noise that fades to nothing over the smear, as loud as one sample of the level. */
const addEcho = (out: Float64Array, at: number, frames: number, level: number, dice: Dice): void => {
  if (frames < 2) {
    if (at < out.length) out[at]! += level
    return
  }
  const each = level * Math.sqrt(9 / frames)
  for (let n = 0; n < frames && at + n < out.length; n += 1)
    out[at + n]! += each * (2 * dice.unit() - 1) * (1 - n / frames)
}

const addTail = (
  out: Float64Array,
  { ms, level, decay, bright, dull }: Space['tail'],
  rate: number,
  dice: Dice,
) => {
  const keep = exactPower(10, -3 / (decay * rate)),
    first = Math.round((ms / 1000) * rate),
    rise = Math.round(0.03 * rate)
  let loud = level,
    low = 0
  for (let n = first; n < out.length; n += 1) {
    const way = (n - first) / (out.length - first),
      open = bright + (dull - bright) * Math.sqrt(way)
    low += open * (2 * dice.unit() - 1 - low)
    // What the low-pass takes of the level is given back: the decay is what is set.
    out[n]! += loud * Math.min(1, (n - first) / rise) * low * Math.sqrt((2 - open) / open)
    loud *= keep
  }
}

const addMode = (
  out: Float64Array,
  [hertz, decay, level]: Space['modes'][number],
  rate: number,
  dice: Dice,
): void => {
  const keep = exactPower(10, -3 / (decay * rate)),
    // Both sides ring a little apart.
    turn = 2 * exactCosine((hertz * (1 + 0.004 * (dice.unit() - 0.5))) / rate)
  let y = 0,
    before = level * (0.4 + 0.6 * dice.unit()) * keep
  for (let n = 0; n < out.length; n += 1) {
    const next = keep * turn * y - keep * keep * before
    before = y
    y = next
    out[n]! += y
  }
}

/** Takes out what is below, twice by one pole; hertz over the rate. */
const highPass = (out: Float64Array, share: number): void => {
  const keep = 1 - 2 * Math.PI * share
  for (let round = 0; round < 2; round += 1) {
    let x = 0,
      y = 0
    for (let n = 0; n < out.length; n += 1) {
      y = keep * (y + out[n]! - x)
      x = out[n]!
      out[n] = y
    }
  }
}

const known = new Map<string, AssetSound>()

/** A space by its name at a rate in hertz, two channels; undefined for another name. */
export const spaceNamed = (name: string, rate: number): AssetSound | undefined => {
  const key = `${name} ${rate}`
  const before = known.get(key)
  if (before) return before
  const space = SPACES.get(name)
  if (!space) return undefined
  const frames = Math.round(space.seconds * rate),
    fade = Math.round(0.1 * frames)
  const channels = [0, 1].map((side) => {
    const out = new Float64Array(frames),
      dice = new Dice(1009 + 7919 * side),
      signs = new Dice(SIGNS)
    for (const [ms, level, place, smear] of space.echoes)
      addEcho(
        out,
        // The ear that is farther off hears it later. Walls turn about every other echo round.
        Math.round((ms / 1000 + APART * Math.max(0, side ? -place : place)) * rate),
        Math.round((smear / 1000) * rate),
        (signs.unit() < 0.5 ? -1 : 1) * level * sidesOf(place)[side]!,
        dice,
      )
    addTail(out, space.tail, rate, dice)
    for (const mode of space.modes) addMode(out, mode, rate, dice)
    highPass(out, LOWEST / rate)
    // It ends without a step.
    for (let n = 0; n < fade; n += 1) out[frames - 1 - n]! *= n / fade
    return Float32Array.from(out)
  })
  const made = { rate, channels }
  known.set(key, made)
  return made
}
