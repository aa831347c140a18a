/** The probe's slots: what each looks at and how. Of the moment: nothing of it is in the patch. */
import type { Excitation } from '@ypsilon/core/analysis/excitation.ts'
import { PROBE_DEFAULTS, type ProbeSettings } from '@ypsilon/core/probe/settings.ts'
import { createStore, type StoreApi } from 'zustand'

export const SLOT_NAMES = ['A', 'B', 'C', 'D'] as const
export type SlotName = (typeof SLOT_NAMES)[number]

/** A sound that is laid over what a slot shows. */
export interface Overlay {
  readonly id: string
  readonly name: string
}

/** The way a response is measured: from an input to what the slot looks at. */
export interface ProbePath {
  /** `filter.in`; undefined: the module's own sound input. */
  readonly from: string | undefined
  readonly excitation: Excitation
}

export interface ProbeSlot {
  /** `osc.saw`, `cable:ID`, `>filter.cutoff` or `output`; undefined: nothing, the slot is closed. */
  readonly target: string | undefined
  /** Nobody has chosen its target: the next that is pinned comes here. */
  readonly isFree: boolean
  readonly settings: ProbeSettings
  readonly isFrozen: boolean
  readonly path: ProbePath
  readonly overlays: readonly Overlay[]
  /** Counts how often held levels and what is integrated were begun anew. */
  readonly begun: number
}

export type Slots = Readonly<Record<SlotName, ProbeSlot>>

export interface ProbeState {
  readonly slots: Slots
  /** The slot that was touched last. */
  readonly last: SlotName
  /** The two slots of which the difference is shown. */
  readonly compared: readonly [SlotName, SlotName] | undefined
  /** The probe is on the page: signals are wanted. */
  readonly isSeen: boolean
  /** Signals that editors show besides, by who shows them. */
  readonly wanted: ReadonlyMap<string, readonly string[]>
  /** Looks at a signal: in a slot, else in the one that looks at it, the first that is free, or the one touched last. */
  pin(target: string, slot?: SlotName): void
  close(slot: SlotName): void
  change(slot: SlotName, part: Partial<Omit<ProbeSlot, 'settings' | 'target'>>): void
  set(slot: SlotName, settings: Partial<ProbeSettings>): void
  compare(slots: ProbeState['compared']): void
  show(isSeen: boolean): void
  /** Names signals that somebody shows besides: `osc.saw`, `>filter.cutoff`; none any more. */
  want(who: string, keys: readonly string[]): void
  /** Another patch: its signals are others. */
  begin(): void
}
export type ProbeStore = StoreApi<ProbeState>

/** What leaves the engine, among targets. */
export const OUTPUT_TARGET = 'output'
export const MOST_OVERLAYS = 3

const slot = (target: string | undefined, kind: ProbeSettings['kind']): ProbeSlot => ({
  target,
  isFree: true,
  settings: { ...PROBE_DEFAULTS, kind },
  isFrozen: false,
  path: { from: undefined, excitation: 'click' },
  overlays: [],
  begun: 0,
})

const FRESH: Slots = {
  A: slot(OUTPUT_TARGET, 'scope'),
  B: slot(OUTPUT_TARGET, 'spectrum'),
  C: slot(undefined, 'tuner'),
  D: slot(undefined, 'level'),
}

/** The slot a signal comes to that is pinned without one. */
const slotFor = ({ slots, last }: ProbeState, target: string): SlotName =>
  SLOT_NAMES.find((name) => slots[name].target === target && !slots[name].isFree) ??
  SLOT_NAMES.find((name) => slots[name].isFree) ??
  last

export const createProbeStore = (): ProbeStore =>
  createStore<ProbeState>()((set, get) => {
    const changed = (name: SlotName, part: Partial<ProbeSlot>): void => {
      const { slots } = get()
      set({ slots: { ...slots, [name]: { ...slots[name], ...part } }, last: name })
    }
    return {
      slots: FRESH,
      last: 'A',
      compared: undefined,
      isSeen: false,
      wanted: new Map(),
      pin(target, name = slotFor(get(), target)) {
        const { slots } = get()
        if (slots[name].target === target) changed(name, { isFree: false })
        else
          changed(name, {
            target,
            isFree: false,
            isFrozen: false,
            path: { ...slots[name].path, from: undefined },
            overlays: [],
          })
      },
      close(name) {
        const { compared } = get()
        changed(name, { target: undefined, isFree: true, isFrozen: false, overlays: [] })
        if (compared?.includes(name)) set({ compared: undefined })
      },
      change(name, part) {
        changed(name, part)
      },
      set(name, settings) {
        changed(name, { settings: { ...get().slots[name].settings, ...settings } })
      },
      compare(compared) {
        set({ compared })
      },
      show(isSeen) {
        set({ isSeen })
      },
      want(who, keys) {
        const wanted = new Map(get().wanted)
        if (keys.length > 0) wanted.set(who, keys)
        else wanted.delete(who)
        set({ wanted })
      },
      begin() {
        const { slots } = get()
        const begun = SLOT_NAMES.map((name) => [name, { ...FRESH[name], settings: slots[name].settings }])
        set({ slots: Object.fromEntries(begun) as unknown as Slots, compared: undefined, last: 'A' })
      },
    }
  })

/** Slots that look at something, in order. */
export const openSlots = (slots: Slots): SlotName[] =>
  SLOT_NAMES.filter((name) => slots[name].target !== undefined)
