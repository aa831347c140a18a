/** Messages of controls as moves of targets: which message moves what, how far, and who has picked up what. */
import { exactCurve } from '../describe/points.ts'
import type { Controller, ControllerKind, ParamValue, Patch } from '../patch/types.ts'
import { type Target, targetOf, type Way, wayOf, wholeRange } from '../patch/targets.ts'

/** What a control says: 0…1, bends −1…1. */
export interface Message {
  readonly kind: ControllerKind
  /** Number of the control, key or program. */
  readonly number?: number
  readonly value: number
  readonly channel?: number
  /** Name of the device; left out where it is not known, as in files: then every map listens. */
  readonly device?: string
}

/** Moves of a control take this long. */
export const CONTROL_SECONDS = 0.005

/** A control stands where its target stands when it is no farther off than this: a step of 128, and a little. */
const NEAR = 0.01
/** Steps from one end of a relative control to the other. */
const STEPS = 127

/** What is known of one map while it is played. */
export interface ControllerState {
  /** Place in the patch's list. */
  readonly index: number
  readonly id: string | undefined
  readonly target: string
  /** Where the control last stood, 0…1; undefined before its first message. */
  readonly position: number | undefined
  /** False while an absolute control with pick-up has not met its target yet. */
  readonly taken: boolean
}

interface Live {
  position: number | undefined
  taken: boolean
  /** Share of its way the map last moved to, before steps; and what its target had after that. */
  share: number
  left: ParamValue | undefined
}

interface Mapping {
  readonly controller: Controller
  readonly index: number
  readonly kind: ControllerKind
  readonly number: number | undefined
  readonly channel: number
  readonly device: string | undefined
  readonly way: Way
  readonly live: Live
}

const sourceOf = ({
  source,
  controller,
  channel,
}: Controller): Controller['source'] & { channel: number } => ({
  kind: 'control',
  ...(controller === undefined ? {} : { number: controller }),
  ...source,
  channel: source?.channel ?? channel ?? 0,
})

const rangeOf = (controller: Controller, target: Target): readonly [number, number] => {
  const [low, high] = wholeRange(target)
  return [controller.low ?? low, controller.high ?? high]
}

/** Steps a relative control was turned by. */
const turned = (encoding: Controller['encoding'], value: number): number => {
  const code = Math.round(value * STEPS)
  switch (encoding ?? 'twos') {
    case 'twos':
      return code < 64 ? code : code - 128
    case 'offset':
      return code - 64
    case 'sign':
      return code < 64 ? code : 64 - code
    default:
      return 0
  }
}

/** Where a message puts its control, 0…1. */
const positionOf = ({ number }: Mapping, message: Message): number => {
  if (message.kind === 'bend') return (message.value + 1) / 2
  // A map of all keys or programs reads which one it was; a map of one is pressed and let go.
  if ((message.kind === 'note' || message.kind === 'program') && number === undefined)
    return (message.number ?? 0) / 127
  if (message.kind === 'note') return message.value > 0 ? 1 : 0
  return message.kind === 'program' ? 1 : message.value
}

export interface Moved {
  readonly target: string
  readonly value: ParamValue
}

/** The maps of a patch, and what each knows while it is played. */
export class Controllers {
  private maps: readonly Mapping[] = []
  private patch: Patch | undefined
  private readonly moving: Mapping[] = []

  constructor(
    patch: Patch,
    /** What a target has now. */
    private readonly valueOf: (target: string) => ParamValue | undefined,
  ) {
    this.follow(patch)
  }

  /** Takes over the maps of a patch; maps that stay as they are keep what they know. */
  follow(patch: Patch): void {
    const { patch: before } = this
    this.patch = patch
    if (before && before.controllers === patch.controllers && before.modules === patch.modules) return
    const known = new Map(this.maps.map((map) => [map.controller, map.live]))
    this.maps = (patch.controllers ?? []).flatMap((controller, index): Mapping[] => {
      const target = targetOf(patch, controller.target)
      const way = wayOf(target, ...rangeOf(controller, target))
      const { kind, number, channel, device } = sourceOf(controller)
      return way === undefined
        ? []
        : [
            {
              controller,
              index,
              kind,
              number,
              channel,
              device: device === 'any' ? undefined : device,
              way,
              live: known.get(controller) ?? {
                position: undefined,
                taken: controller.pickup !== true,
                share: 0,
                left: undefined,
              },
            },
          ]
    })
  }

  /** Moves that a message means, and whether it is a control's alone: then nobody else hears it. */
  receive(message: Message): { readonly moves: readonly Moved[]; readonly consumed: boolean } {
    const heard = this.maps.filter((map) => listens(map, message))
    return {
      moves: heard.flatMap((map) => this.moveOf(map, message)),
      consumed: heard.some((map) => map.kind !== 'note' || map.number !== undefined),
    }
  }

  /** Notes what targets have after their moves: that something else moved them is told from that. */
  noted(): void {
    for (const { controller, live } of this.moving) live.left = this.valueOf(controller.target)
    this.moving.length = 0
  }

  states(): ControllerState[] {
    return this.maps.map(({ controller, index, live }) => ({
      index,
      id: controller.id,
      target: controller.target,
      position: live.position,
      taken: live.taken && this.isWhereItWas(controller.target, live),
    }))
  }

  private isWhereItWas(target: string, live: Live): boolean {
    return live.left === undefined || live.left === this.valueOf(target)
  }

  private moveOf(map: Mapping, message: Message): Moved[] {
    const { controller, way, live } = map
    const mode = controller.mode ?? 'absolute'
    const moved = !this.isWhereItWas(controller.target, live)
    const now = this.valueOf(controller.target)
    if (now === undefined) return []
    // Where it left its target, its own share is finer than the value tells.
    const share =
      live.left === undefined || moved ? unbent(way.shareOf(now), controller.curve ?? 0) : live.share
    if (moved && controller.pickup) live.taken = false
    const next =
      mode === 'relative'
        ? within(share + turned(controller.encoding, message.value) / STEPS)
        : this.follows(map, positionOf(map, message), share)
    if (next === undefined) return []
    live.share = next
    this.moving.push(map)
    return [{ target: controller.target, value: way.at(exactCurve(next, controller.curve ?? 0)) }]
  }

  /** The share an absolute or scaled control moves to; undefined while it moves nothing. */
  private follows({ controller, live }: Mapping, position: number, share: number): number | undefined {
    const before = live.position
    live.position = position
    if (controller.mode === 'scaled')
      return before === undefined ? undefined : scaled(share, before, position)
    if (!live.taken) {
      const met = Math.abs(position - share) <= NEAR
      const passed = before !== undefined && (before - share) * (position - share) <= 0
      live.taken = met || passed
    }
    return live.taken ? position : undefined
  }
}

const within = (x: number): number => Math.min(1, Math.max(0, x))

/** Both ends of control and target meet: what is left of the one is spread over what is left of the other. */
const scaled = (share: number, before: number, position: number): number => {
  if (position > before)
    return within(before < 1 ? share + ((1 - share) * (position - before)) / (1 - before) : 1)
  return within(before > 0 ? share - (share * (before - position)) / before : 0)
}

const listens = (map: Mapping, message: Message): boolean =>
  map.kind === message.kind &&
  (map.number === undefined || map.number === message.number) &&
  (map.channel === 0 ||
    message.channel === undefined ||
    message.channel === 0 ||
    map.channel === message.channel) &&
  (map.device === undefined || message.device === undefined || map.device === message.device)

const HALVINGS = 40
/** The place on a curve at which it has a height. */
const unbent = (height: number, curve: number): number => {
  if (curve === 0) return height
  let low = 0,
    high = 1
  for (let n = 0; n < HALVINGS; n += 1) {
    const middle = (low + high) / 2
    if (exactCurve(middle, curve) < height) low = middle
    else high = middle
  }
  return (low + high) / 2
}
