import { normalised } from '../../../describe/waves.ts'
import { exactCosine, exactExp, exactPower, exactSine } from '../../../units/exact.ts'
import { exactTransform } from '../../../units/fourier.ts'
import { own } from '../../../units/own.ts'

/** Partials the richest level holds; every level holds √2 times fewer than the one before. */
export const MOST_PARTIALS = 256
export const LEVELS = 17
/** Points of a level: sixteen for each of its partials, so that reading between them with six points errs below −90 dB. */
export const pointsOf = (level: number): number => Math.max(64, 4096 >> (level >> 1))
/** Partials of a level. */
export const partialsOf = (level: number): number =>
  Math.max(1, Math.floor((MOST_PARTIALS * (level % 2 === 0 ? 1 : Math.SQRT1_2)) / 2 ** (level >> 1)))
/** Points before the wave (2) and behind it, for reading across its ends. */
export const MARGIN = 6
export const LEVEL_OFFSETS: readonly number[] = Array.from({ length: LEVELS }, (_, level) =>
  Array.from({ length: level }, (_unused, l) => pointsOf(l) + MARGIN).reduce((a, b) => a + b, 0),
)
/** Floats of one frame, all levels. */
export const FRAME_FLOATS = LEVEL_OFFSETS.at(-1)! + pointsOf(LEVELS - 1) + MARGIN
/** Frames a table may have. */
export const MOST_FRAMES = 256
const SIZE = 2048

/** One cycle as amplitudes of sine and cosine of each partial, from 1. */
interface Spectrum {
  readonly sine: Float64Array
  readonly cosine: Float64Array
}

const spectrum = (fill: (n: number) => readonly [sine: number, cosine: number]): Spectrum => {
  const sine = new Float64Array(MOST_PARTIALS + 1),
    cosine = new Float64Array(MOST_PARTIALS + 1)
  for (let n = 1; n <= MOST_PARTIALS; n += 1) {
    const [s, c] = fill(n)
    sine[n] = s
    cosine[n] = c
  }
  return { sine, cosine }
}

const spectrumOf = (wave: (p: number) => number): Spectrum => {
  const re = Float64Array.from({ length: SIZE }, (_, i) => wave(i / SIZE)),
    im = new Float64Array(SIZE)
  exactTransform(re, im, -1)
  return spectrum((n) => [(-2 * im[n]!) / SIZE, (2 * re[n]!) / SIZE])
}

/** Loudest point of the whole frame, to bring every frame to the same peak. */
const render = ({ sine, cosine }: Spectrum, level: number): Float64Array => {
  const size = pointsOf(level),
    re = new Float64Array(size),
    im = new Float64Array(size)
  const most = partialsOf(level)
  // x = Σ s sin + c cos: the coefficient of e^(+jn) is (c − js) / 2, of e^(−jn) its mirror.
  for (let n = 1; n <= most; n += 1) {
    re[n] = cosine[n]! / 2
    im[n] = -sine[n]! / 2
    re[size - n] = cosine[n]! / 2
    im[size - n] = sine[n]! / 2
  }
  exactTransform(re, im, 1)
  return re
}

/** Frames with all their levels behind one another, each scaled to a peak of 1 at its richest. */
const tableOf = (frames: readonly Spectrum[]): Float32Array => {
  const table = new Float32Array(frames.length * FRAME_FLOATS)
  frames.forEach((frame, index) => {
    const first = render(frame, 0)
    let peak = 0
    for (const x of first) peak = Math.max(peak, Math.abs(x))
    const scale = peak > 1e-9 ? 1 / peak : 0
    for (let level = 0; level < LEVELS; level += 1) {
      const wave = level === 0 ? first : render(frame, level)
      const at = index * FRAME_FLOATS + LEVEL_OFFSETS[level]!
      for (let i = 0; i < wave.length + MARGIN; i += 1)
        table[at + i] = wave[(i - 2 + wave.length) % wave.length]! * scale
    }
  })
  return table
}

const FRAMES = 32
const each = (make: (x: number, index: number) => Spectrum): Spectrum[] =>
  Array.from({ length: FRAMES }, (_, i) => make(i / (FRAMES - 1), i))
/** Whole-number hash within 0…1, for frames that should look like noise. */
const hashed = (n: number): number => {
  let h = Math.imul(n + 1, 0x9e3779b1) >>> 0
  h = Math.imul(h ^ (h >>> 16), 0x7feb352d) >>> 0
  h = Math.imul(h ^ (h >>> 15), 0x846ca68b) >>> 0
  return ((h ^ (h >>> 16)) >>> 0) / 4294967296
}
const bell = (x: number, width: number): number => exactExp(-(x * x) / (2 * width * width))

/** Drawbar numbers of an organ: partials, and levels of five mixtures. */
const ORGAN_PARTIALS = [1, 2, 3, 4, 5, 6, 8, 10, 12, 16]
const ORGAN_MIXTURES = [
  [1, 0, 0, 0, 0, 0, 0, 0, 0, 0],
  [1, 0.8, 0.3, 0, 0, 0, 0, 0, 0, 0],
  [1, 0.9, 0.7, 0.6, 0.2, 0.3, 0, 0, 0, 0],
  [0.8, 0.6, 0.9, 0.7, 0.5, 0.6, 0.7, 0.2, 0.3, 0],
  [0.7, 0.4, 0.7, 0.8, 0.7, 0.8, 1, 0.7, 0.8, 0.9],
]

/** Points of a drawn wave: heights within ±1, and five of them to scan through. */
const DRAWN = [
  [0, 0.6, 1, 0.7, 0, -0.7, -1, -0.6],
  [0, 1, 0.4, 0.8, 0, -0.3, -1, -0.2],
  [0, 0.9, -0.5, 1, 0.2, -1, 0.5, -0.9],
  [0, 1, -1, 0.6, -0.4, 0.8, -0.9, 0.1],
  [0, -1, 1, -0.9, 0.9, -0.6, 1, -1],
]
const drawnAt = (points: readonly number[], p: number): number => {
  const x = p * points.length,
    i = Math.floor(x) % points.length,
    t = x - Math.floor(x)
  const s = t * t * (3 - 2 * t)
  return points[i]! + (points[(i + 1) % points.length]! - points[i]!) * s
}

/** The built-in tables: what each is made of, from position 0 to 1. All computed here. */
export const TABLES: Readonly<Record<string, { readonly words: string; readonly make: () => Spectrum[] }>> = {
  sweep: {
    words: 'from one partial to a full saw',
    make: () =>
      each((x) => {
        const most = exactPower(MOST_PARTIALS, x)
        return spectrum((n) => [Math.min(1, Math.max(0, most + 1 - n)) / n, 0])
      }),
  },
  formant: {
    words: 'a resonance climbing through the partials',
    make: () =>
      each((x) => {
        const centre = 2 + 30 * x * x
        return spectrum((n) => [
          bell(n - centre, 1.2 + 0.12 * centre) +
            0.25 * bell(n - 1, 0.6) +
            0.4 * bell(n - 2.6 * centre, 2 + 0.2 * centre),
          0,
        ])
      }),
  },
  folded: {
    words: 'a sine folded over and over',
    make: () => each((x) => spectrumOf((p) => exactSine(0.25 * (1 + 9 * x) * exactSine(p) + 0.05 * x))),
  },
  organ: {
    words: 'drawbar mixtures, flute to full',
    make: () =>
      each((x) => {
        const place = x * (ORGAN_MIXTURES.length - 1),
          i = Math.min(ORGAN_MIXTURES.length - 2, Math.floor(place)),
          t = place - i
        return spectrum((n) => {
          const k = ORGAN_PARTIALS.indexOf(n)
          return [k < 0 ? 0 : ORGAN_MIXTURES[i]![k]! * (1 - t) + ORGAN_MIXTURES[i + 1]![k]! * t, 0]
        })
      }),
  },
  bell: {
    words: 'struck metal, its partials bent to whole numbers',
    make: () =>
      each((x) =>
        spectrum((n) => {
          let sum = 0
          for (const [ratio, size] of [
            [2, 0.6],
            [4, 1],
            [4.8, 0.7],
            [6, 0.4],
            [8, 0.8],
            [10.9, 0.5],
            [16.6, 0.4],
            [21.3, 0.3],
            [29.1, 0.25],
            [38, 0.2],
          ] as const) {
            const place = ratio * (1 + 0.12 * x * (ratio / 8))
            const near = 1 - Math.abs(n - place)
            if (near > 0) sum += near * size * (1 - 0.5 * x * (ratio < 5 ? 1 : -1))
          }
          return [sum * exactCosine(n * 0.17), sum * exactSine(n * 0.17)]
        }),
      ),
  },
  pulse: {
    words: 'a pulse from half to a needle',
    make: () =>
      each((x) => {
        const width = 0.5 - 0.48 * x
        return spectrum((n) => {
          const a = (2 / (3.141592653589793 * n)) * exactSine((n * width) / 2) * 2
          return [a * exactSine((n * width) / 2), a * exactCosine((n * width) / 2)]
        })
      }),
  },
  grit: {
    words: 'partials with random levels and phases, ever more of them',
    make: () =>
      each((x, i) =>
        spectrum((n) => {
          const size = hashed(n * 131 + (i >> 2)) / exactPower(n, 0.9 - 0.6 * x),
            turn = hashed(n * 977 + 7)
          return [size * exactCosine(turn), size * exactSine(turn)]
        }),
      ),
  },
  drawn: {
    words: 'five drawn shapes',
    make: () =>
      each((x) => {
        const place = x * (DRAWN.length - 1),
          i = Math.min(DRAWN.length - 2, Math.floor(place)),
          t = place - i
        return spectrumOf((p) => drawnAt(DRAWN[i]!, p) * (1 - t) + drawnAt(DRAWN[i + 1]!, p) * t)
      }),
  },
}

export const BUILT_IN = Object.keys(TABLES)
const made = new Map<string, Float32Array>()

/** A built-in table with all its levels; made once. */
export const builtInTable = (name: string): Float32Array => {
  const known = own(TABLES, name) ? name : 'sweep'
  let table = made.get(known)
  if (!table) {
    table = tableOf(own(TABLES, known)!.make())
    made.set(known, table)
  }
  return table
}

/** Largest size of frame, 2048 … 256, that divides a recording; a shorter one is a single frame. */
export const frameSizeOf = (frames: number): number =>
  [2048, 1024, 512, 256].find((size) => frames % size === 0) ?? Math.min(frames, SIZE)

/** How many frames of a size a recording is cut into. */
const framesIn = (length: number, size: number): number =>
  Math.max(1, Math.min(MOST_FRAMES, Math.floor(length / size)))

/** A recording cut into frames, each one cycle. */
export const tableFromSound = (samples: Float32Array, size = frameSizeOf(samples.length)): Float32Array => {
  const count = framesIn(samples.length, size)
  return tableOf(
    Array.from({ length: count }, (_, index) =>
      spectrumOf((p) => {
        // Straight between the samples of the frame; at 2048 exactly the samples.
        const x = p * size,
          i = Math.floor(x),
          t = x - i,
          at = (k: number): number => samples[index * size + (k % size)] ?? 0
        return at(i) + (at(i + 1) - at(i)) * t
      }),
    ),
  )
}

/** The richest level of a frame, for pictures. */
export const frameWave = (table: Float32Array, index: number): Float32Array =>
  table.subarray(index * FRAME_FLOATS + 2, index * FRAME_FLOATS + 2 + pointsOf(0))

/** Points of a wave as it is drawn, the last where the first is. */
const DRAWN_POINTS = 257

/** A frame as it sounds, for pictures: without what is steady in it, and brought to a peak of 1. */
const levelled = (frame: Float32Array): Float32Array => {
  const mean = frame.reduce((sum, x) => sum + x, 0) / frame.length
  return normalised(frame.map((x) => x - mean))
}

/**
 * The wave at a position (0…1) of a table, as it is drawn: `DRAWN_POINTS` levels within ±1, mixed of the two frames around
 * it as they are heard. The table is a built-in one by its name, or the samples of a recording that serves as one.
 */
export const drawnWave = (table: string | Float32Array, position: number): readonly number[] => {
  const built = typeof table === 'string' ? builtInTable(table) : undefined
  const samples = typeof table === 'string' ? new Float32Array(0) : table,
    size = frameSizeOf(samples.length)
  const count = built ? built.length / FRAME_FLOATS : framesIn(samples.length, size)
  const frame = (n: number): Float32Array =>
    built ? frameWave(built, n) : levelled(samples.subarray(n * size, (n + 1) * size))
  const place = Math.min(1, Math.max(0, position)) * (count - 1),
    low = Math.min(Math.floor(place), Math.max(0, count - 2)),
    share = place - low
  const [a, b] = [frame(low), frame(Math.min(low + 1, count - 1))]
  return Array.from({ length: DRAWN_POINTS }, (_, i) => {
    const at = Math.round((i * a.length) / (DRAWN_POINTS - 1)) % a.length,
      // A recording of no samples is silent.
      level = a[at] ?? 0
    return level + share * ((b[at] ?? 0) - level)
  })
}
