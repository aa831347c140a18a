/** What a slot of the probe is asked to show, and how. */
export type ProbeKind =
  | 'scope'
  | 'spectrum'
  | 'tuner'
  | 'level'
  | 'stereo'
  | 'spectrogram'
  | 'decay'
  | 'density'
  | 'impulse'
  | 'magnitude'
  | 'phase'
  | 'delay'

/** `free`: the last stretch; `trigger`: from a rise; `pitch`: whole periods of the tone that sounds. */
export type ScopeLock = 'free' | 'trigger' | 'pitch'

export interface ProbeSettings {
  readonly kind: ProbeKind
  /** Seconds a scope shows; locked to pitch it shows the whole periods next to it. */
  readonly windowSeconds: number
  readonly lock: ScopeLock
  /** Of a spectrum's frequencies. */
  readonly scale: 'log' | 'linear'
  /** Frames a spectrum is made of: a power of two. */
  readonly size: number
  /** Every bin's highest level since this was begun is shown as well. */
  readonly holdsPeaks: boolean
  /** Hertz against which sidebands are marked; `auto`: found among the peaks. */
  readonly carrier: number | 'auto' | 'off'
  /** Hertz from one sideband to the next. */
  readonly modulator: number | 'auto'
}

export const PROBE_DEFAULTS: ProbeSettings = {
  kind: 'scope',
  windowSeconds: 0.02,
  lock: 'trigger',
  scale: 'log',
  size: 16384,
  holdsPeaks: false,
  carrier: 'off',
  modulator: 'auto',
}

/** Windows of a scope in seconds. */
export const SCOPE_WINDOWS = [0.002, 0.005, 0.01, 0.02, 0.05, 0.1, 0.5, 2, 6] as const
/** Frames of a spectrum. */
export const SPECTRUM_SIZES = [2048, 4096, 8192, 16384, 32768, 65536] as const
