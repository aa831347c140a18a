/**
 * Carries signals from the engine to the probe's worker, and brings back what its slots show. One for a page, made when
 * the probe is first seen; it runs while it is on the page.
 */
import type { Patch } from '@ypsilon/core'
import type { Difference } from '@ypsilon/core/probe/compare.ts'
import type { Plot } from '@ypsilon/core/probe/plot.ts'
import { isResponseKind, type PathSound } from '@ypsilon/core/probe/responses.ts'
import type { ProbeKind, ProbeSettings } from '@ypsilon/core/probe/settings.ts'
import type { EngineClient } from '../../audio/engine-client.ts'
import { RING } from '../../audio/messages.ts'
import type { Picture } from '../../audio/pictures.ts'
import { openProber, type ProbePiece, type Want } from '../../audio/prober.ts'
import type { DocumentStore } from '../../store/document.ts'
import { openSlots, type ProbeSlot, type ProbeStore, SLOT_NAMES, type SlotName } from '../../store/probe.ts'
import { type Probed, probedOf } from './target.ts'

/** Milliseconds between two looks, by kind: what moves fast is asked for with every frame. */
const WAIT_MS: Readonly<Partial<Record<ProbeKind, number>>> = {
  spectrum: 30,
  stereo: 30,
  spectrogram: 45,
  tuner: 90,
  level: 90,
}
/** So long a picture that is asked for is waited for. */
const PATIENCE_MS = 5000
/** Seconds of a signal that are held. */
const HELD_SECONDS = 4

export interface Laid {
  readonly name: string
  readonly plot: Plot
}

const NOTHING: readonly Laid[] = []

/** The samples of a ring in the order they came. */
const unrolled = (ring: Float32Array, position: number): Float32Array => {
  const samples = new Float32Array(ring.length)
  samples.set(ring.subarray(position))
  samples.set(ring.subarray(0, position), ring.length - position)
  return samples
}

const piecesOf = (picture: Picture): Float32Array[] =>
  [picture.ring, ...(picture.right ? [picture.right] : [])].map((ring) => unrolled(ring, picture.position))

/** Kinds that are measured along a path instead of being heard. */
export const isMeasured = ({ settings: { kind }, path }: ProbeSlot): boolean =>
  isResponseKind(kind) && path.from !== undefined

/** What a slot's target is in a patch: worked out once for both. */
interface Known {
  readonly patch: Patch
  readonly target: string
  readonly probed: Probed | undefined
}

interface FeedParts {
  readonly engine: EngineClient
  readonly document: DocumentStore
  readonly probe: ProbeStore
}

export class ProbeFeed {
  private readonly worker = openProber()
  private readonly plots = new Map<SlotName, Plot>()
  private readonly laid = new Map<SlotName, readonly Laid[]>()
  private readonly lookedAt = new Map<SlotName, number>()
  private readonly known = new Map<SlotName, Known>()
  private isLooking = false
  private lastTime = -1
  /** The two plots of which `difference` is. */
  private comparedOf: readonly (Plot | undefined)[] = []
  difference: Difference | undefined

  constructor(private readonly parts: FeedParts) {}

  /** Runs until what it returns is called. */
  start(): () => void {
    const { engine, probe } = this.parts
    probe.getState().show(true)
    const stops = [
      engine.subscribe(({ time }) => {
        this.take(time)
      }),
      probe.subscribe(({ slots }, before) => {
        for (const name of SLOT_NAMES)
          if (slots[name] !== before.slots[name]) this.changed(name, slots[name], before.slots[name])
      }),
    ]
    return () => {
      for (const stop of stops) stop()
      probe.getState().show(false)
    }
  }

  /** What a slot looks at; undefined where it is gone. */
  probed(name: SlotName): Probed | undefined {
    const { patch } = this.parts.document.getState(),
      { slots } = this.parts.probe.getState()
    const { target } = slots[name]
    if (target === undefined) return undefined
    let known = this.known.get(name)
    if (known?.patch !== patch || known.target !== target) {
      known = { patch, target, probed: probedOf(patch, target) }
      this.known.set(name, known)
    }
    return known.probed
  }

  plot(name: SlotName): Plot | undefined {
    return this.plots.get(name)
  }
  /** The same once it is there; undefined where it has not come for a while. */
  async shown(name: SlotName): Promise<Plot | undefined> {
    const until = performance.now() + PATIENCE_MS
    while (!this.plots.has(name) && performance.now() < until)
      await new Promise((resolve) => {
        requestAnimationFrame(resolve)
      })
    return this.plots.get(name)
  }
  overlays(name: SlotName): readonly Laid[] {
    return this.laid.get(name) ?? NOTHING
  }

  private changed(name: SlotName, slot: ProbeSlot, before: ProbeSlot): void {
    if (slot.target !== before.target) {
      this.plots.delete(name)
      void this.worker.clear(name)
    }
    if (slot.settings.kind !== before.settings.kind) this.plots.delete(name)
    if (slot.begun !== before.begun) void this.worker.begin(name)
    const gone = before.overlays.filter(({ id }) => !slot.overlays.some((other) => other.id === id))
    for (const { id } of gone) void this.worker.drop(id)
    this.lookedAt.delete(name)
    if (slot.settings !== before.settings || slot.overlays !== before.overlays) void this.layOver(name)
    // What is frozen or was measured is shown by other settings too.
    if ((slot.isFrozen || isMeasured(slot)) && slot.settings !== before.settings) void this.lookAt(name)
  }

  /** Pieces of what is looked at, as a report brings them. */
  private take(time: number): void {
    if (time === this.lastTime) return
    this.lastTime = time
    const { engine, probe } = this.parts,
      { slots } = probe.getState(),
      rate = engine.sampleRate
    const pieces: ProbePiece[] = []
    for (const name of openSlots(slots)) {
      const slot = slots[name]
      if (slot.isFrozen || isMeasured(slot)) continue
      const probed = this.probed(name)
      const channels = probed && this.channelsOf(probed)
      if (channels) pieces.push({ slot: name, from: time - RING, rate, gain: probed.gain, channels })
    }
    if (pieces.length > 0) void this.worker.take(pieces)
  }

  private channelsOf(probed: Probed): Float32Array[] | undefined {
    const picture = this.parts.engine.picture(probed.key)
    // Until the engine knows that all of it is wanted, a signal comes thinned.
    if (picture) return picture.ring.length === RING ? piecesOf(picture) : undefined
    return probed.still === undefined ? undefined : [new Float32Array(RING).fill(probed.still)]
  }

  /** With every frame: asks for what is due, unless the last answer has not come yet. */
  step(now: number): void {
    if (this.isLooking) return
    const { slots, compared } = this.parts.probe.getState()
    const wants: Want[] = []
    for (const name of openSlots(slots)) {
      const slot = slots[name]
      if (slot.isFrozen || isMeasured(slot)) continue
      if (now - (this.lookedAt.get(name) ?? -Infinity) < (WAIT_MS[slot.settings.kind] ?? 0)) continue
      this.lookedAt.set(name, now)
      wants.push({ slot: name, settings: slot.settings })
    }
    // Of two that are frozen or measured the difference is another one only when they are.
    const isOther = compared?.some((name, n) => this.plots.get(name) !== this.comparedOf[n]) ?? false
    if (wants.length > 0 || isOther) void this.look(wants, compared)
  }

  private async look(wants: readonly Want[], pair: readonly [SlotName, SlotName] | undefined): Promise<void> {
    this.isLooking = true
    try {
      const { plots, difference } = await this.worker.look(wants, pair)
      const { slots } = this.parts.probe.getState()
      for (const { slot, settings } of wants) {
        const name = slot as SlotName,
          plot = plots.get(slot)
        // What was asked for may be another thing by now.
        if (plot && slots[name].settings.kind === settings.kind && !slots[name].isFrozen)
          this.plots.set(name, plot)
      }
      this.difference = difference
      this.comparedOf = pair?.map((name) => this.plots.get(name)) ?? []
    } finally {
      this.isLooking = false
    }
  }

  private async lookAt(name: SlotName): Promise<void> {
    const { slots } = this.parts.probe.getState(),
      { settings } = slots[name]
    const plot = isMeasured(slots[name])
      ? await this.worker.plotOf(pathId(name), settings, name)
      : (await this.worker.look([{ slot: name, settings }], undefined, true)).plots.get(name)
    if (!plot || this.parts.probe.getState().slots[name].settings !== settings) return
    this.plots.set(name, plot)
  }

  /** What is laid over a slot, by its settings. */
  private async layOver(name: SlotName): Promise<void> {
    const { overlays, settings } = this.parts.probe.getState().slots[name]
    const plots = await Promise.all(
      overlays.map(async (overlay) => ({
        name: overlay.name,
        plot: await this.worker.plotOf(overlay.id, withoutMemory(settings)),
      })),
    )
    const now = this.parts.probe.getState().slots[name]
    if (now.overlays !== overlays || now.settings !== settings) return
    this.laid.set(
      name,
      plots.filter((each): each is Laid => each.plot !== undefined),
    )
  }

  /** Holds what a slot has heard, under a name of its own. */
  async hold(name: SlotName, id: string): Promise<void> {
    const slot = this.parts.probe.getState().slots[name]
    if (isMeasured(slot)) {
      await this.worker.copy(pathId(name), id)
      return
    }
    await this.worker.hold(name, id, HELD_SECONDS)
  }

  /** The last seconds a slot has heard; undefined where it has heard nothing. */
  async heard(name: SlotName): Promise<PathSound | undefined> {
    return this.worker.heard(name, HELD_SECONDS)
  }

  async keep(id: string, sound: PathSound): Promise<void> {
    await this.worker.keep(id, sound)
  }

  /** The answer of a path, measured: what the slot shows now. */
  async answer(name: SlotName, sound: PathSound): Promise<void> {
    await this.worker.keep(pathId(name), sound)
    await this.lookAt(name)
  }
}

const pathId = (name: SlotName): string => `path ${name}`

/** What is over holds no levels and marks no sidebands. */
const withoutMemory = (settings: ProbeSettings): ProbeSettings => ({
  ...settings,
  holdsPeaks: false,
  carrier: 'off',
})
