/** The probe's slots off the page's thread: they hear pieces of signals and answer with plots. */
import { compared, type Difference } from '@ypsilon/core/probe/compare.ts'
import type { Plot } from '@ypsilon/core/probe/plot.ts'
import type { ProbeSettings } from '@ypsilon/core/probe/settings.ts'
import { plotOfSound, Slot } from '@ypsilon/core/probe/slot.ts'
import type { PathSound } from '@ypsilon/core/probe/responses.ts'
import { expose } from 'comlink'

export interface ProbePiece {
  readonly slot: string
  /** Frame on the engine's clock at which it begins. */
  readonly from: number
  readonly rate: number
  readonly gain: number
  /** Samples by side. */
  readonly channels: readonly Float32Array[]
}

export interface Want {
  readonly slot: string
  readonly settings: ProbeSettings
}

export interface Looked {
  /** By slot; those of which nothing is new are left out. */
  readonly plots: ReadonlyMap<string, Plot>
  readonly difference: Difference | undefined
}

/** A sound that is over, or the last seconds of one that goes on: it looks as the slot did that heard it. */
interface KeptSound {
  readonly sound: PathSound
  readonly isWhole: boolean
}

const slots = new Map<string, Slot>(),
  sounds = new Map<string, KeptSound>(),
  /** What every slot showed last. */
  shown = new Map<string, Plot>()

const slotOf = (name: string, rate: number): Slot => {
  let slot = slots.get(name)
  if (slot?.tape.rate !== rate) {
    slot = new Slot(rate)
    slots.set(name, slot)
  }
  return slot
}

const api = {
  /** The next frames of some slots. */
  take(pieces: readonly ProbePiece[]): void {
    for (const { slot, from, rate, gain, channels } of pieces) {
      if (gain !== 1)
        for (const channel of channels) for (let i = 0; i < channel.length; i += 1) channel[i]! *= gain
      slotOf(slot, rate).take(channels, from)
    }
  },
  /** What some slots show now, and the difference of two of all. `isForced`: what is not due is looked at as well. */
  look(wants: readonly Want[], pair: readonly [string, string] | undefined, isForced = false): Looked {
    const plots = new Map<string, Plot>()
    for (const { slot: name, settings } of wants) {
      const slot = slots.get(name)
      if (!slot || (!isForced && !slot.isDue(settings))) continue
      const plot = slot.look(settings)
      plots.set(name, plot)
      shown.set(name, plot)
    }
    const [a, b] = pair?.map((name) => shown.get(name)) ?? []
    return { plots, difference: a && b ? compared(a, b) : undefined }
  },
  /** Another signal comes to a slot. */
  clear(name: string): void {
    slots.delete(name)
    shown.delete(name)
  },
  /** Held levels and what is integrated begin anew. */
  begin(name: string): void {
    slots.get(name)?.begin()
  },
  /** Keeps what a slot has heard, to be laid over it. */
  hold(name: string, id: string, seconds: number): void {
    const sound = api.heard(name, seconds)
    if (sound) sounds.set(id, { sound, isWhole: false })
  },
  /** The last seconds a slot has heard; undefined where it has heard nothing. */
  heard(name: string, seconds: number): PathSound | undefined {
    const slot = slots.get(name)
    if (!slot || slot.tape.frames === 0) return undefined
    const { rate } = slot.tape
    return { rate, channels: slot.tape.last(Math.round(seconds * rate)) }
  },
  /** The same of a sound that is kept already. */
  copy(from: string, id: string): void {
    const sound = sounds.get(from)
    if (sound) sounds.set(id, sound)
  },
  keep(id: string, sound: PathSound): void {
    sounds.set(id, { sound, isWhole: true })
  },
  drop(id: string): void {
    sounds.delete(id)
  },
  /** What a kept sound looks like; undefined where there is none. `slot`: it is what that slot shows. */
  plotOf(id: string, settings: ProbeSettings, slot?: string): Plot | undefined {
    const kept = sounds.get(id)
    if (!kept) return undefined
    const plot = plotOfSound(kept.sound, settings, kept.isWhole)
    if (slot !== undefined) shown.set(slot, plot)
    return plot
  },
}

export type ProbeWorker = typeof api
expose(api)
