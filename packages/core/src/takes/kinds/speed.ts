import { exactExp2 } from '../../units/exact.ts'
import { Resampler } from '../../units/resample.ts'
import { atOnce, boundFaults, type ChainStep, numberOf, type StepKind } from '../step.ts'
import { bounded } from '../tape.ts'

const SLOWEST = 1 / 16,
  FASTEST = 16,
  SEMITONES = 48
/** Places between two samples that a speed may need: its ratio is met within a tenth of a cent. */
const MOST_PHASES = 16384

/** The nearest fraction of a ratio whose parts are not beyond `most` (continued fractions). */
export const fractionOf = (ratio: number, most: number): readonly [top: number, bottom: number] => {
  let [top, bottom, topBefore, bottomBefore] = [1, 0, 0, 1],
    rest = ratio
  for (let n = 0; n < 32; n += 1) {
    const whole = Math.floor(rest),
      nextTop = whole * top + topBefore,
      nextBottom = whole * bottom + bottomBefore
    if (nextTop > most || nextBottom > most) break
    ;[topBefore, bottomBefore, top, bottom] = [top, bottom, nextTop, nextBottom]
    const left = rest - whole
    if (left < 1e-9) break
    rest = 1 / left
  }
  return bottom === 0 ? [most, 1] : [Math.max(1, top), bottom]
}

const factorOf = (step: ChainStep): number =>
  numberOf(step, 'factor', 1) * exactExp2(numberOf(step, 'semitones', 0) / 12)
const resamplerOf = (step: ChainStep): Resampler => {
  const [up, down] = fractionOf(1 / factorOf(step), MOST_PHASES)
  return new Resampler(up, down)
}

/** Faster and higher, or slower and lower: by a factor, by semitones, or both. */
export const speed: StepKind = {
  kind: 'speed',
  faults: (step) => {
    const faults = [
      ...boundFaults(step, 'factor', SLOWEST, FASTEST),
      ...boundFaults(step, 'semitones', -SEMITONES, SEMITONES, { unit: ' st' }),
    ]
    const factor = faults.length > 0 ? 1 : factorOf(step)
    return factor < SLOWEST || factor > FASTEST
      ? [['factor', `with its semitones it is ${factor.toPrecision(4)}, not ${SLOWEST}…${FASTEST}`]]
      : faults
  },
  goes: (step, _shape, frame) => Math.round(frame / factorOf(step)),
  out: (step, shape) => ({ ...shape, frames: Math.max(1, resamplerOf(step).frames(shape.frames)) }),
  ...atOnce((step, tape) => {
    const resampler = resamplerOf(step),
      frames = Math.max(1, resampler.frames(tape.frames))
    return {
      ...tape,
      frames,
      read: (from, to) =>
        bounded(frames, from, to, async (first, last) => {
          const [start, end] = resampler.needs(first, last)
          const sources = await tape.read(start, end)
          return sources.map((source) => resampler.read(source, start, first, last))
        }),
    }
  }),
}
