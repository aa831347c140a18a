/** One slot of the probe: it hears a signal piece by piece and shows it as it is asked to. */
import { decayPlot, densityPlot, sinceStrike } from './decays.ts'
import { LevelView } from './level.ts'
import type { Plot } from './plot.ts'
import { type PathSound, responsePlot } from './responses.ts'
import { Scope } from './scope.ts'
import type { ProbeKind, ProbeSettings } from './settings.ts'
import { Spectrogram } from './spectrogram.ts'
import { SpectrumView } from './spectrum.ts'
import { stereoPlot } from './stereo.ts'
import { Tape } from './tape.ts'
import { Tuner } from './tuner.ts'

type Look = (tape: Tape, settings: ProbeSettings, isWhole: boolean) => Plot

/** Every kind begins with a memory of its own: held levels, what is integrated, how a pitch has moved. */
const LOOKS: Readonly<Record<ProbeKind, () => Look>> = {
  scope: () => {
    const scope = new Scope()
    return (tape, settings) => scope.look(tape, settings)
  },
  spectrum: () => {
    const view = new SpectrumView()
    return (tape, settings, isWhole) => view.look(tape, settings, isWhole)
  },
  tuner: () => {
    const tuner = new Tuner()
    return (tape, _, isWhole) => tuner.look(tape, isWhole)
  },
  level: () => {
    const view = new LevelView()
    return (tape, _, isWhole) => view.look(tape, isWhole)
  },
  stereo: () => (tape, _, isWhole) => stereoPlot(tape, isWhole),
  spectrogram: () => {
    const view = new Spectrogram()
    return (tape, _, isWhole) => view.look(tape, isWhole)
  },
  decay: () => (tape, _, isWhole) => decayPlot(struck(tape, isWhole), tape.rate),
  density: () => (tape, _, isWhole) => densityPlot(struck(tape, isWhole), tape.rate),
  // Of a signal itself there is no answer; what is heard since it was struck stands for it.
  impulse: () => (tape, _, isWhole) => responsePlot('impulse', answered(tape, isWhole)),
  magnitude: () => (tape, _, isWhole) => responsePlot('magnitude', answered(tape, isWhole)),
  phase: () => (tape, _, isWhole) => responsePlot('phase', answered(tape, isWhole)),
  delay: () => (tape, _, isWhole) => responsePlot('delay', answered(tape, isWhole)),
}

/** What is heard since the last strike; of a whole sound all of it. */
const struck = (tape: Tape, isWhole: boolean): Float32Array[] =>
  isWhole ? tape.last(tape.frames) : sinceStrike(tape.last(tape.frames), tape.rate)

const answered = (tape: Tape, isWhole: boolean): PathSound => ({
  rate: tape.rate,
  channels: struck(tape, isWhole),
})

/** Kinds that cost much and change slowly are made anew only so often, in seconds. */
const SLOW: ReadonlyMap<ProbeKind, number> = new Map([
  ['decay', 0.5],
  ['density', 0.5],
  ['impulse', 0.5],
  ['magnitude', 0.5],
  ['phase', 0.5],
  ['delay', 0.5],
])

export class Slot {
  readonly tape: Tape
  private kind: ProbeKind | undefined
  private view: Look | undefined
  private lookedAt: number | undefined

  constructor(rate: number, seconds?: number) {
    this.tape = new Tape(rate, seconds)
  }

  /** The next frames by side, from a frame of the engine's clock on. */
  take(channels: readonly Float32Array[], from?: number): void {
    if (this.tape.take(channels, from)) this.begin()
  }

  /** Held levels, peaks and what is integrated begin anew. */
  begin(): void {
    this.view = undefined
    this.lookedAt = undefined
  }

  /** Is there anything new to be looked at? */
  isDue({ kind }: ProbeSettings): boolean {
    const wait = SLOW.get(kind) ?? 0
    return (
      kind !== this.kind ||
      this.lookedAt === undefined ||
      this.tape.position - this.lookedAt > wait * this.tape.rate
    )
  }

  /** `isWhole`: a sound that is over, looked at from its begin to its end. */
  look(settings: ProbeSettings, isWhole = false): Plot {
    if (settings.kind !== this.kind || !this.view) {
      this.kind = settings.kind
      this.view = LOOKS[settings.kind]()
    }
    this.lookedAt = this.tape.position
    return this.view(this.tape, settings, isWhole)
  }
}

/** A sound as a slot would show it: all of it, or (`isWhole` false) as one that has heard so much and goes on. */
export const plotOfSound = ({ rate, channels }: PathSound, settings: ProbeSettings, isWhole = true): Plot => {
  const slot = new Slot(rate, Math.max(1, channels[0]?.length ?? 0) / rate)
  slot.take(channels.slice(0, 2))
  return slot.look(settings, isWhole)
}
