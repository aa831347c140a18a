/* eslint max-lines: ["error", 500] -- one machine: what is played, what waits for a fade, what comes at the end of a morph */
/** What is played on a patch, as steps for the engine: one meaning for live playing, replay and renders. */
import { CATALOGUE } from '../catalogue.ts'
import type { Planner, Step, ValueMove } from '../engine/planner.ts'
import { valueChanges } from '../engine/value-changes.ts'
import type { EngineEvent, LaterEvent } from '../engine/runtime.ts'
import type { PlayerEvent } from '../notes/events.ts'
import type { Moves } from '../patch/document.ts'
import { patchIndex } from '../patch/index.ts'
import { asEffective, macroMoves, ownership } from '../patch/macros.ts'
import { setValueOf } from '../patch/targets.ts'
import type { Fault, ParamValue, Patch } from '../patch/types.ts'
import { splitTarget } from '../patch/walk.ts'
import { append } from '../units/append.ts'
import { own } from '../units/own.ts'
import { eventFault } from './check.ts'
import { CONTROL_SECONDS, Controllers, type ControllerState } from './controllers.ts'
import { Coming } from './coming.ts'
import { isMessage, type MessageEvent, messageOf, moveEvent, NEVER_WAITS, timeEvent } from './messages.ts'
import { keepsModule, Moment, overlayOf } from './moment.ts'
import type { Recorder, Untimed } from './recorder.ts'
import { withEntry } from './entries.ts'
import {
  blendNamed,
  blendRecall,
  movesRecall,
  type Now,
  type Recall,
  snapshotNamed,
  snapshotRecall,
} from './recall.ts'

/** The audio thread swaps plans between blocks: ends of morphs fall on them, so that live and offline agree. */
const GRID = 128
const FIRE_VELOCITY = 0.8
/** How long a fired note is held where the snapshot says nothing. */
export const FIRE_SECONDS = 0.5
/** Notes without a name of their own get one below this. */
const FIRST_ID = -1

type SnapshotEvent = Extract<PlayerEvent, { readonly type: 'snapshot' }>
type BlendEvent = Extract<PlayerEvent, { readonly type: 'blend' }>
type RecallEvent = SnapshotEvent | BlendEvent
const isSettingsMove = (item: EngineEvent | ValueMove): item is ValueMove => !('type' in item)

/**
 * Follows a patch and whoever plays it. Moves are of the moment: the document keeps what is set. `play` takes what is
 * done, `flush` gives what the engine has to do for it, in order; nothing here knows a clock, only the frames it is told.
 */
export class Performance {
  private moment: Moment
  private readonly maps: Controllers
  private readonly nearest = new Map<string, string>()
  private pending: (EngineEvent | ValueMove)[] = []
  private coming = new Coming()
  /** What waits until a fade is over. */
  private held: { readonly event: PlayerEvent; readonly device: string | undefined }[] = []
  /** Ends of morphs, in time. */
  private ends: { readonly frame: number; readonly coming: Coming }[] = []
  /** A plan fades: the next one waits until that has settled. */
  private fading = false
  private lastId = FIRST_ID
  /** Keeps what is played, where somebody records. */
  recorder: Recorder | undefined
  /** Told of every move that is no note: for what shows it. */
  onMove: () => void = () => undefined

  constructor(
    patch: Patch,
    /** Left out until there is an engine: moves are kept, notes are not. */
    private planner?: Planner,
    private sampleRate = 48000,
  ) {
    this.moment = new Moment(patch)
    this.maps = new Controllers(patch, (target) => this.valueOf(target))
  }

  /** The document: set values. */
  get set(): Patch {
    return this.moment.set
  }
  /** The patch as it is heard. */
  heard(): Patch {
    return this.moment.heard()
  }
  /** What a target has now; at the end of its way, where it is on one. */
  valueOf(target: string): ParamValue | undefined {
    return this.coming.values.get(target) ?? this.moment.valueOf(target)
  }
  /** Is it somewhere else than where loading puts it? */
  isMoved(target: string): boolean {
    return this.moment.isMoved(target)
  }
  moves(): Moves {
    return this.moment.moves()
  }
  controllers(): ControllerState[] {
    return this.maps.states()
  }
  /** Frame at which something happens by itself: the end of a morph. */
  get nextFrame(): number | undefined {
    return this.ends[0]?.frame
  }

  /** Values that hold from the start, whatever macros give at load. Before `begin`. */
  preset(values: ReadonlyMap<string, ParamValue>): void {
    for (const [target, value] of values) {
      const given = target.startsWith('macro:')
        ? macroMoves(this.set, new Map([[target.slice(6), Number(value)]]))
        : [[target, value] as const]
      for (const [moved, to] of given) this.moment.move(moved, to)
    }
  }

  /** The first plan. */
  begin(): Step {
    return this.planner ? this.taken(this.planner.next(this.moment.heard())) : { kind: 'nothing' }
  }

  /** An engine has come, or another one: it is to play everything as it stands. */
  attach(planner: Planner, sampleRate: number): Step {
    this.planner = planner
    this.sampleRate = sampleRate
    this.fading = false
    return this.begin()
  }

  /** The engine is gone; what is played until another comes is moved only. */
  detach(): void {
    this.planner = undefined
    this.fading = false
    this.pending = []
  }

  /** Something outside the patch has changed that plans are made from: its recordings. */
  reload(): Step {
    if (!this.planner) return { kind: 'nothing' }
    const heard = this.moment.heard()
    this.planner.moved(heard)
    return this.taken(
      this.planner.next(asEffective({ ...heard, assets: { ...(heard['assets'] as object) } })),
    )
  }

  /** Another document takes the place of this one, with nothing moved. */
  open(patch: Patch): Step {
    const was = this.moment.heard()
    this.moment = new Moment(patch)
    this.maps.follow(patch)
    this.nearest.clear()
    this.coming = new Coming()
    this.ends = []
    this.held = []
    this.pending = []
    this.onMove()
    if (!this.planner) return { kind: 'nothing' }
    this.planner.moved(was)
    return this.taken(this.planner.next(this.moment.heard()))
  }

  /**
   * Another document. What was moved stays so, but for what the edit itself sets; or it is as `moves` say, in one step
   * with the edit.
   */
  edit(patch: Patch, frame: number, moves?: Moves): Step[] {
    const before = this.set
    if (before === patch) {
      if (moves) this.moveTo(moves)
      return moves ? this.flush(frame) : []
    }
    const was = this.moment.heard()
    this.moment.replace(patch, (target) =>
      target.endsWith('.*')
        ? keepsModule(before, patch, target.slice(0, -2))
        : setValueOf(before, target) === setValueOf(patch, target),
    )
    if (moves) {
      this.moment.become(moves)
      this.coming = new Coming()
      this.ends = []
    }
    this.maps.follow(patch)
    this.planner?.moved(was)
    const step: Step = this.planner ? this.taken(this.planner.next(this.moment.heard())) : { kind: 'nothing' }
    // A field that a macro owns is heard when it is set, until the macro moves again.
    const { owner } = ownership(patch)
    for (const [target, value] of moves ? [] : (valueChanges(before, patch) ?? []))
      if (owner.has(target)) this.move(target, value, -1)
    this.recorder?.edited(before, patch)
    this.onMove()
    return [step, ...this.flush(frame)]
  }

  /** Takes everything that is moved to where it was: what is not named goes back to what is set. */
  moveTo(moves: Moves): void {
    const now = this.moment.moves(),
      to = overlayOf(moves)
    this.coming = new Coming()
    this.ends = []
    this.take(
      movesRecall(now, to.values, (target) => this.moment.loaded(target)),
      -1,
      0,
    )
    for (const id of new Set([...Object.keys(now.data), ...(to.data?.keys() ?? [])]))
      this.coming.data.set(id, to.data?.get(id))
    for (const id of new Set([...Object.keys(now.bypass), ...(to.bypass?.keys() ?? [])]))
      this.coming.bypass.set(id, to.bypass?.get(id))
    this.onMove()
  }

  /** The plan that came before has faded: its settled form, and what waited. */
  settled(frame: number): Step[] {
    this.fading = false
    // What was moved meanwhile stays so.
    this.planner?.moved(this.moment.heard())
    const step = this.planner?.settle()
    return [...(step ? [step] : []), ...this.flush(frame)]
  }

  /** Lets what waited have its turn, up to the next that needs a plan of its own. */
  private takeHeld(frame: number): void {
    if (this.fading || this.held.length === 0) return
    const { held } = this
    this.held = []
    for (const { event, device } of held)
      // An edit may have taken away what it was about.
      if (!eventFault(this.set, event)) this.understand(event, frame, device)
    this.maps.noted()
  }

  /** Takes what is done at a frame. Faults are of events that mean nothing in this patch; nothing is done then. */
  play(event: PlayerEvent, frame: number, device?: string): Fault | undefined {
    const fault = eventFault(this.set, event)
    if (fault) return fault
    if (this.mustWait(event)) this.held.push({ event, device })
    else this.understand(event, frame, device)
    this.maps.noted()
    return undefined
  }

  /**
   * While a plan fades, what needs another one waits, whole, for the few milliseconds until that has settled; so does what
   * moves things after it, to stay in order. Notes never wait.
   */
  private mustWait(event: PlayerEvent): boolean {
    if (!this.fading || NEVER_WAITS.has(event.type)) return false
    if (this.held.length > 0 || event.type === 'data' || event.type === 'bypass') return true
    if (event.type !== 'snapshot' && event.type !== 'blend') return false
    const { recall, glide } = this.recallOf(event)
    return glide <= 0 && recall.words.size + recall.data.size + recall.bypass.size > 0
  }

  /** What the engine has to do for all that was played up to a frame, in order. */
  flush(frame: number): Step[] {
    while (this.ends[0] && this.ends[0].frame <= frame) this.coming.take(this.ends.shift()!.coming)
    this.takeHeld(frame)
    const steps: Step[] = []
    if (!this.coming.isEmpty && !this.fading) steps.push(this.rebuild())
    let run: ValueMove[] = [],
      events: EngineEvent[] = []
    const endRun = (): void => {
      if (run.length === 0) return
      const step: Step = this.planner?.move(() => this.moment.heard(), run) ?? { kind: 'nothing' }
      run = []
      if (step.kind === 'events') append(events, step.events)
      else {
        if (events.length > 0) steps.push({ kind: 'events', events })
        events = []
        steps.push(this.taken(step))
      }
    }
    for (const item of this.pending)
      if (isSettingsMove(item)) run.push(item)
      else {
        endRun()
        events.push(item)
      }
    endRun()
    if (events.length > 0) steps.push({ kind: 'events', events })
    this.pending = []
    return this.planner ? steps : []
  }

  private taken(step: Step): Step {
    if (step.kind === 'plan') this.fading = step.settles !== undefined
    return step
  }

  /** Words, data and bypasses that wait become a plan that fades; where it cannot be made, all stays as it was. */
  private rebuild(): Step {
    const { moment, coming } = this,
      was = coming.standing(moment)
    this.coming = new Coming()
    this.planner?.moved(moment.heard())
    coming.arrive(moment)
    const step: Step = this.planner?.next(moment.heard(), true) ?? { kind: 'nothing' }
    if (step.kind === 'faults') {
      was.arrive(moment)
      return step
    }
    this.onMove()
    return this.taken(step)
  }

  private move(target: string, value: ParamValue, glide: number): void {
    this.moment.move(target, value)
    this.coming.values.delete(target)
    for (const { coming } of this.ends) coming.values.delete(target)
    this.pending.push({ target, value, glide })
  }

  private moveMacro(id: string, value: number, glide: number): void {
    for (const [target, given] of macroMoves(this.set, new Map([[id, value]])))
      this.move(target, given, glide)
  }

  /** A move of a target by hand or file: macros move what they own. */
  private moveTarget(target: string, value: ParamValue, glide: number): void {
    if (target.startsWith('macro:')) this.moveMacro(target.slice(6), Number(value), glide)
    else this.move(target, value, glide)
    this.onMove()
  }

  private frames(seconds: number | undefined): number {
    return seconds === undefined ? -1 : Math.round(seconds * this.sampleRate)
  }

  private understand(event: PlayerEvent, frame: number, device: string | undefined): void {
    if (isMessage(event)) {
      this.playMessage(event, device)
      return
    }
    this.note(event)
    switch (event.type) {
      case 'param':
        this.moveTarget(event.target, event.value, this.frames(event.over))
        return
      case 'macro':
        this.moveTarget(`macro:${event.target}`, event.value, this.frames(event.over))
        return
      case 'snapshot':
        this.playSnapshot(event, frame)
        return
      case 'blend':
        this.playBlend(event)
        return
      case 'data':
        this.playData(event)
        return
      case 'bypass':
        this.coming.bypass.set(event.target, event.value)
        this.onMove()
        return
      default:
        this.pending.push(timeEvent(event))
    }
  }

  private note(event: PlayerEvent, delay = 0): void {
    const { t: _t, ...rest } = event
    this.recorder?.note(rest as Untimed, delay)
  }

  /** A message of a player: to the controls that map it, and where it is not theirs alone, to the notes. */
  private playMessage(event: MessageEvent, device: string | undefined): void {
    const message = messageOf(event, device)
    const { moves, consumed } = message ? this.maps.receive(message) : { moves: [], consumed: false }
    const glide = this.frames(CONTROL_SECONDS)
    for (const { target, value } of moves) {
      this.moveTarget(target, value, glide)
      if (consumed) this.recorder?.note(moveEvent(target, value))
    }
    if (consumed) return
    if (event.type === 'off') {
      this.playOff(event)
      return
    }
    this.note(event)
    if (event.type === 'program') return
    if (event.type === 'on') this.pending.push(this.onEvent(event))
    else {
      const { t: _t, ...rest } = event
      this.pending.push(rest as EngineEvent)
    }
  }

  /** Of what comes together, ends of notes come first; one that came after a beginning ends a frame later. */
  private playOff(event: Extract<PlayerEvent, { readonly type: 'off' }>): void {
    const off: LaterEvent = {
      type: 'off',
      note: event.note,
      velocity: event.velocity ?? 0,
      ...(event.id === undefined ? {} : { id: event.id }),
    }
    const late = this.pending.some((item) => !isSettingsMove(item) && item.type === 'on')
    this.pending.push(late ? { type: 'later', frames: 1, event: off } : off)
    this.note(event, late ? 1 : 0)
  }

  private onEvent(event: PlayerEvent & { readonly type: 'on' }): EngineEvent & { readonly type: 'on' } {
    return {
      type: 'on',
      note: event.note,
      velocity: event.velocity ?? 1,
      id: event.id ?? (this.lastId -= 1),
      ...(event.channel === undefined ? {} : { channel: event.channel }),
    }
  }

  /** Where a snapshot or blend takes things from how they are heard now, and over how many frames. */
  private recallOf(event: RecallEvent): {
    readonly recall: Recall
    readonly glide: number
    readonly nearest?: string
  } {
    if (event.type === 'blend') {
      const item = blendNamed(this.set, event.target)!
      return {
        ...blendRecall(this.set, this.now, item, event.x, event.y, this.nearest.get(item.id)),
        glide: -1,
      }
    }
    const snapshot = snapshotNamed(this.set, event.target)!
    const seconds = event.over ?? snapshot.over ?? 0
    return {
      recall: snapshotRecall(this.set, this.now, snapshot),
      glide: seconds > 0 ? Math.max(1, this.frames(seconds)) : -1,
    }
  }

  private playSnapshot(event: SnapshotEvent, frame: number): void {
    const { recall, glide } = this.recallOf(event)
    this.take(recall, glide, frame)
    const { fire } = snapshotNamed(this.set, event.target)!
    if (fire) {
      const { note, velocity = FIRE_VELOCITY, length = FIRE_SECONDS } = fire
      const fired = (this.lastId -= 1)
      this.pending.push(
        { type: 'on', note, velocity, id: fired },
        { type: 'later', frames: this.frames(length), event: { type: 'off', note, velocity: 0, id: fired } },
      )
    }
    this.onMove()
  }

  private playBlend(event: BlendEvent): void {
    const { recall, nearest } = this.recallOf(event)
    this.nearest.set(event.target, nearest!)
    this.take(recall, -1, 0)
    this.onMove()
  }

  private playData({ target, index, value }: Extract<PlayerEvent, { readonly type: 'data' }>): void {
    const [id = '', name = ''] = splitTarget(target) ?? []
    const module = patchIndex(this.set).module.get(id)
    const description =
      module && CATALOGUE.get(module.type)?.description.data?.find((item) => item.name === name)
    if (!description) return
    const lists = this.now.dataOf(id) ?? {}
    const now = index === undefined ? value : withEntry(description, own(lists, name), index, value)
    this.coming.data.set(id, { ...lists, [name]: now })
    this.onMove()
  }

  /** How things are heard when all that waits has come. */
  private readonly now: Now = {
    valueOf: (target) => this.valueOf(target),
    dataOf: (id) => {
      const set = patchIndex(this.set).module.get(id)?.data
      return this.coming.data.has(id) ? (this.coming.data.get(id) ?? set) : (this.moment.dataOf(id) ?? set)
    },
    bypassOf: (id) => {
      const set = patchIndex(this.set).module.get(id)?.bypass === true
      return this.coming.bypass.has(id)
        ? (this.coming.bypass.get(id) ?? set)
        : (this.moment.bypassOf(id) ?? set)
    },
  }

  /** Takes over a recall: numbers move at once or over a morph; the rest comes now or at its end. */
  private take(recall: Recall, glide: number, frame: number): void {
    this.coming.forget(recall)
    for (const { coming } of this.ends) coming.forget(recall)
    for (const [target, value] of recall.numbers) this.move(target, value, glide)
    const rest = new Coming()
    for (const [target, value] of recall.words) rest.values.set(target, value)
    for (const [id, lists] of recall.data) rest.data.set(id, lists)
    for (const [id, value] of recall.bypass) rest.bypass.set(id, value)
    if (rest.isEmpty) return
    if (glide <= 0) this.coming.take(rest)
    else {
      const end = Math.ceil((frame + glide) / GRID) * GRID
      const at = this.ends.findIndex((other) => other.frame > end)
      this.ends.splice(at < 0 ? this.ends.length : at, 0, { frame: end, coming: rest })
    }
  }
}
