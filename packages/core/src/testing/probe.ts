/** What tests of the probe hear, and how. */
import type { Plot } from '../probe/plot.ts'
import { PROBE_DEFAULTS, type ProbeKind, type ProbeSettings } from '../probe/settings.ts'
import { Slot } from '../probe/slot.ts'

export const RATE = 48000
export const PIECE = 512
export const signal = (seconds: number, at: (t: number) => number): Float32Array =>
  Float32Array.from({ length: Math.round(seconds * RATE) }, (_, i) => at(i / RATE))
export const sine = (hz: number, seconds: number, level = 0.5): Float32Array =>
  signal(seconds, (t) => level * Math.sin(2 * Math.PI * hz * t))
/** Numbers of a fixed sequence within ±1. */
export const noise = (length: number, seed = 1): Float32Array => {
  let h = seed
  return Float32Array.from({ length }, () => {
    h = (Math.imul(h, 1664525) + 1013904223) >>> 0
    return h / 2147483648 - 1
  })
}
export const settings = (kind: ProbeKind, more: Partial<ProbeSettings> = {}): ProbeSettings => ({
  ...PROBE_DEFAULTS,
  kind,
  ...more,
})
/** A slot that has heard a sound as the worklet hands it over. */
export const heard = (
  channels: readonly Float32Array[],
  each: (slot: Slot) => void = () => undefined,
): Slot => {
  const slot = new Slot(RATE)
  const frames = channels[0]!.length
  for (let at = 0; at < frames; at += PIECE) {
    slot.take(
      channels.map((channel) => channel.subarray(at, at + PIECE)),
      at,
    )
    each(slot)
  }
  return slot
}
export const reading = ({ readings }: Plot, name: string): number | null =>
  readings.find((each) => each.name === name)!.value
