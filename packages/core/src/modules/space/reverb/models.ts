/** What tells the rooms apart, as numbers: where echoes lie and how bright they are. Times in ms at the middle size. */

export const LINES = 16
/** Rounds of scattering before the lines. */
export const ROUNDS = 3
/** Reflections of a side that it hears itself, and of the other side. */
export const TAPS = 8
export const MODELS = ['hall', 'chamber', 'plate', 'room'] as const

interface Model {
  /** Shortest and longest line. */
  readonly lines: readonly [number, number]
  /** Longest way of each round of scattering. */
  readonly rounds: readonly [number, number, number]
  /** When the tail begins after the sound itself. */
  readonly late: number
  /** First and last early reflection, and how loud all of them are; 0 where there are none. */
  readonly early: readonly [first: number, last: number, level: number]
  /** Gains of what lies below and above the corners. */
  readonly low: number
  readonly high: number
  /** Corner of the highs in hertz. */
  readonly highHertz: number
  /** Brings the tail to the loudness of what comes in, at two seconds. */
  readonly level: number
  /** What each side hears of the other: so much that both together lose little. */
  readonly across: number
}

const ROOMS: Readonly<Record<(typeof MODELS)[number], Model>> = {
  hall: {
    lines: [31, 83],
    rounds: [9, 17, 29],
    late: 14,
    early: [11, 73, 0.55],
    low: 1.15,
    high: 0.62,
    highHertz: 4200,
    level: 0.193,
    across: 0.07,
  },
  chamber: {
    lines: [17, 47],
    rounds: [5, 9, 15],
    late: 5,
    early: [5, 41, 0.7],
    low: 1,
    high: 0.8,
    highHertz: 5200,
    level: 0.158,
    across: 0.05,
  },
  plate: {
    lines: [11, 37],
    rounds: [2.3, 5.3, 9.1],
    late: 0,
    early: [0, 0, 0],
    low: 0.7,
    high: 1.35,
    highHertz: 3000,
    level: 0.142,
    across: 0.06,
  },
  room: {
    lines: [9, 29],
    rounds: [1.9, 3.7, 6.1],
    late: 1.5,
    early: [2.3, 21, 0.9],
    low: 0.9,
    high: 0.7,
    highHertz: 3600,
    level: 0.128,
    across: 0.01,
  },
}

/** Words of the table of one model. */
export const MODEL_WORDS = LINES + ROUNDS * LINES + 4 * TAPS + 8

/** Spreads 0…1 unevenly and the same everywhere: multiples of the golden ratio, wrapped. */
const scattered = (n: number): number => {
  const x = n * 0.6180339887498949
  return x - Math.floor(x)
}

/** Lines in even ratios from the shortest to the longest, a little off, in no order. */
const linesOf = ([least, most]: readonly [number, number], shift: number): number[] =>
  Array.from({ length: LINES }, (_, n) => {
    const place = (n * 7 + shift) % LINES
    // Even ratios by halving: √ alone, so that every machine has the same.
    const share = (place + 0.7 * scattered(n + 3 * shift)) / LINES
    return least + (most - least) * share * (0.6 + 0.4 * share)
  })

/** Ways of one round: each channel in a slot of its own, in another order in every round. */
const roundOf = (most: number, round: number): number[] =>
  Array.from({ length: LINES }, (_, n) => {
    const slot = (n * [5, 11, 3][round]! + [2, 7, 13][round]!) % LINES
    return (most * (slot + 0.9 * scattered(17 * round + n + 1))) / LINES
  })

/** Reflections become denser and softer; those of the other side lie between. */
const tapsOf = (
  [first, last, level]: Model['early'],
  other: boolean,
): { times: number[]; gains: number[] } => {
  const times: number[] = [],
    gains: number[] = []
  for (let n = 0; n < TAPS; n += 1) {
    const share = (n + (other ? 0.55 : 0) + 0.5 * scattered(n + (other ? 31 : 5))) / TAPS
    const at = first + (last - first) * share * (1.4 - 0.4 * share)
    times.push(at)
    const sign = (n * 5 + (other ? 1 : 0)) % 3 === 0 ? -1 : 1
    gains.push(last > 0 ? sign * level * (other ? 0.6 : 0.8) * (1 - 0.75 * share) : 0)
  }
  return { times, gains }
}

/**
 * Every model's numbers, as the kernel reads them: lines, rounds, own reflections (times, gains), those of the other
 * side, then when the tail begins, gain of lows and highs, corner of the highs, level, what is heard across. Times in ms.
 */
export const modelTable = (): Float32Array => {
  const table = new Float32Array(MODELS.length * MODEL_WORDS)
  MODELS.forEach((name, index) => {
    const room = ROOMS[name]
    const own = tapsOf(room.early, false),
      other = tapsOf(room.early, true)
    table.set(
      [
        ...linesOf(room.lines, 3 * index + 1),
        ...room.rounds.flatMap((most, round) => roundOf(most, round)),
        ...own.times,
        ...own.gains,
        ...other.times,
        ...other.gains,
        room.late,
        room.low,
        room.high,
        room.highHertz,
        room.level,
        room.across,
        0,
        0,
      ],
      index * MODEL_WORDS,
    )
  })
  return table
}

/** Longest line, way through a round, and reflection with the start of the tail, of all models in ms. */
export const LONGEST = {
  line: Math.max(...MODELS.map((name) => ROOMS[name].lines[1])),
  round: Math.max(...MODELS.flatMap((name) => ROOMS[name].rounds)),
  early: Math.max(
    ...MODELS.map((name) => Math.max(ROOMS[name].early[1], ROOMS[name].late + ROOMS[name].rounds[0])),
  ),
}
