/** The listening sheet: what spaces and chains of all-passes answer to a click, as a table and pictures. */
import { responseOf } from '../analysis/response.ts'
import { patchOf } from './bench.ts'
import { impulseResponse } from '../render/impulse.ts'

interface Subject {
  readonly name: string
  readonly title: string
  readonly type: string
  readonly params: Record<string, number | string | boolean>
  readonly seconds: number
}

const subject = (title: string, type: string, params: Subject['params'], seconds: number): Subject => ({
  name: title.toLowerCase().replace(/[^a-z0-9]+/g, '-'),
  title,
  type,
  params: { mix: 1, ...params },
  seconds,
})

const SUBJECTS: readonly Subject[] = [
  ...['hall', 'chamber', 'plate', 'room'].map((model) =>
    subject(
      `Reverb, ${model}`,
      'reverb',
      { model, motion: 0, ...(model === 'room' ? { decay: 0.5 } : {}) },
      4,
    ),
  ),
  ...[1, 2, 3].map((springs) => subject(`Spring, ${springs} of them`, 'spring', { springs }, 4)),
  ...['slipway-shed', 'stairwell', 'boiler', 'cliff'].map((asset) =>
    subject(`Convolver, ${asset}`, 'convolver', { asset }, 4),
  ),
  ...[5, 10].map((stages) =>
    subject(`Diffuser, ${stages} stages`, 'diffuser', { stages, ratio: 'unrelated' }, 2),
  ),
]

/** Right of the plot stand its levels. */
const WIDTH = 360,
  PLOT = 326,
  HEIGHT = 120,
  FLOOR_DB = -80
const decibels = (x: number): number => 20 * Math.log10(Math.max(x, 1e-9))

/** Levels from the floor to 0 dB as a line over its whole width. */
const picture = (title: string, levels: readonly number[], across: string): string => {
  const points = levels
    .map((level, n) => {
      const share = Math.min(1, Math.max(0, 1 - level / FLOOR_DB))
      return `${((n / (levels.length - 1)) * PLOT).toFixed(1)},${((1 - share) * (HEIGHT - 16)).toFixed(1)}`
    })
    .join(' ')
  const rules = [-20, -40, -60].map((level) => {
    const y = ((level / FLOOR_DB) * (HEIGHT - 16)).toFixed(1)
    return `<line x1="0" x2="${PLOT}" y1="${y}" y2="${y}" stroke="#C6D1D6"/><text x="${PLOT + 4}" y="${(Number(y) + 3).toFixed(1)}" font-size="8" fill="#566874">${level} dB</text>`
  })
  return `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${WIDTH} ${HEIGHT}" role="img" aria-label="${title}"><rect width="${WIDTH}" height="${HEIGHT}" fill="#FFFFFF"/>${rules.join('')}<polyline points="${points}" fill="none" stroke="#0B6E75" stroke-width="1.2"/><text x="${PLOT}" y="${HEIGHT - 4}" font-size="8" text-anchor="end" fill="#566874">${across}</text></svg>\n`
}

const COLUMNS = 180
/** Loudest sample of each column of a response, against the loudest of all. */
const overTime = (impulse: Float32Array): number[] => {
  let most = 1e-9
  for (const x of impulse) most = Math.max(most, Math.abs(x))
  return Array.from({ length: COLUMNS }, (_, n) => {
    let peak = 0
    for (
      let k = Math.floor((n * impulse.length) / COLUMNS);
      k < Math.floor(((n + 1) * impulse.length) / COLUMNS);
      k += 1
    )
      peak = Math.max(peak, Math.abs(impulse[k]!))
    return decibels(peak / most)
  })
}

const LOWEST_HZ = 31.25,
  OCTAVES = 9
/** Mean power of each sixth of an octave, against the strongest. */
const overFrequency = (magnitude: Float64Array, binHz: number): number[] => {
  const levels = Array.from({ length: 6 * OCTAVES }, (_, n) => {
    const from = LOWEST_HZ * 2 ** (n / 6),
      to = from * 2 ** (1 / 6)
    let sum = 0,
      count = 0
    for (let k = Math.max(1, Math.floor(from / binHz)); k <= to / binHz && k < magnitude.length; k += 1) {
      sum += 10 ** (magnitude[k]! / 10)
      count += 1
    }
    return 10 * Math.log10(Math.max(sum / Math.max(1, count), 1e-12))
  })
  const most = Math.max(...levels)
  return levels.map((level) => level - most)
}

export interface EffectSheet {
  readonly text: string
  readonly pictures: ReadonlyMap<string, string>
}

/** The sheet as Markdown and the pictures it shows, by name. */
export const effectSheet = (kernels: WebAssembly.Module): EffectSheet => {
  const pictures = new Map<string, string>()
  const parts = SUBJECTS.map(({ name, title, type, params, seconds }) => {
    const patch = patchOf(
      [
        ['e', type, params],
        ['o', 'output'],
      ],
      ['e.out > o.in'],
    )
    const impulse = impulseResponse(kernels, patch, { from: 'e.in', to: 'e.out', seconds })
    if (!impulse.ok) throw new Error(impulse.faults[0]!.message)
    const [left] = impulse.channels,
      tail = left!.subarray(Math.round(0.2 * impulse.rate))
    const { decays, density } = responseOf(impulse.channels, impulse.rate)
    const { magnitude, binHz } = responseOf([tail], impulse.rate)
    pictures.set(`${name}-impulse`, picture(`${title}: level over time`, overTime(left!), `${seconds} s`))
    pictures.set(
      `${name}-tail`,
      picture(`${title}: spectrum from 200 ms on`, overFrequency(magnitude, binHz), '31 Hz … 16 kHz'),
    )
    const dense = [20, 50, 80, 150].map((ms) => (density[ms / 10] ?? 0).toFixed(2))
    return `## ${title}

| impulse response | spectrum of the tail |
|---|---|
| ![Level over time](pictures/effects/${name}-impulse.svg) | ![Spectrum](pictures/effects/${name}-tail.svg) |

${Object.entries(params)
  .map(([param, value]) => `\`${param}\` ${value}`)
  .join(' · ')}, all else as it comes.

| octave | ${decays.map(({ hz }) => (hz < 1000 ? `${hz}` : `${hz / 1000} k`)).join(' | ')} |
|---|${decays.map(() => '---').join('|')}|
| decay, s | ${decays.map(({ seconds: s }) => s.toFixed(2)).join(' | ')} |

Echo density after 20, 50, 80 and 150 ms: ${dense.join(', ')}.
`
  })
  return {
    pictures,
    text: `# Listening sheet

What each space answers to a click, at 48 kHz, dry sound off: level over time, spectrum from 200 ms on (sixths of an octave against the strongest), decay by octave (T30), echo density (20 ms windows; 1 is as dense as noise). Made by \`node scripts/effects.mjs\` with the same functions the response probe uses.

${parts.join('\n')}`,
  }
}
