/** A patch as a layout sees it: boxes, and links between places on their sides. */
import { printAmount } from '../describe/fields.ts'
import type { SignalKind } from '../describe/types.ts'
import { descriptionOf } from '../patch/groups.ts'
import { patchIndex } from '../patch/index.ts'
import type { Cable, Patch } from '../patch/types.ts'
import { endsOf } from '../patch/walk.ts'
import { CARD_WIDTH, type CardLayout, cardLayout, HEAD, usedRows } from './card.ts'

export interface SketchNode {
  readonly id: string
  readonly width: number
  readonly height: number
}

export interface SketchLink {
  /** Numbers of nodes. */
  readonly from: number
  readonly to: number
  /** Heights of its ends below the tops of their boxes. */
  readonly fromY: number
  readonly toY: number
  /** How much it counts to be short and straight. */
  readonly weight: number
  readonly isAudio: boolean
  /** Room that its amount takes before its end, in pixels; 0 without one. */
  readonly tag: number
}

export interface Sketch {
  readonly nodes: readonly SketchNode[]
  readonly links: readonly SketchLink[]
}

/** The way of the sound counts most. */
const WEIGHT: Readonly<Record<SignalKind, number>> = { audio: 4, pitch: 2, gate: 1.5, control: 1 }

/** Width of a letter in an amount's tag, and what stands around it. */
const TAG_LETTER = 5.6,
  TAG_AROUND = 6

/** Room for the amount of a cable, in pixels. */
export const tagWidth = (patch: Patch, { to, amount = 1 }: Cable): number => {
  if (amount === 1) return 0
  const { toModule, toPort } = endsOf({ from: '', to })
  const module = patchIndex(patch).module.get(toModule)
  const param = module && descriptionOf(module)?.params.find(({ name }) => name === toPort)
  return Math.ceil(printAmount(param, amount).length * TAG_LETTER + TAG_AROUND)
}

/** The modules of a list, all by default, as boxes in their brief form, with the links between them. */
export const sketchOf = (patch: Patch, ids?: ReadonlySet<string>): Sketch => {
  const modules = patch.modules.filter(({ id }) => ids?.has(id) ?? true),
    layouts = modules.map((module) => cardLayout(module, usedRows(patch, module), false)),
    numbers = new Map(modules.map(({ id }, number) => [id, number]))
  const heightOf = (layout: CardLayout, port: string): number => layout.ports.get(port)?.y ?? HEAD / 2
  const links = patch.cables.flatMap((cable): SketchLink[] => {
    const { fromModule, fromPort, toModule, toPort } = endsOf(cable)
    const from = numbers.get(fromModule),
      to = numbers.get(toModule)
    if (from === undefined || to === undefined || from === to) return []
    const kind = layouts[from]!.ports.get(fromPort)?.kind ?? 'control'
    return [
      {
        from,
        to,
        fromY: heightOf(layouts[from]!, fromPort),
        toY: heightOf(layouts[to]!, toPort),
        weight: WEIGHT[kind],
        isAudio: kind === 'audio',
        tag: tagWidth(patch, cable),
      },
    ]
  })
  return {
    nodes: modules.map(({ id }, number) => ({ id, width: CARD_WIDTH, height: layouts[number]!.height })),
    links,
  }
}

/** Nodes that only move others: what they send is no sound, nor does any come in. */
export const moversOf = ({ nodes, links }: Sketch): boolean[] => {
  const sends = nodes.map(() => false),
    sounds = nodes.map(() => false)
  for (const { from, to, isAudio } of links) {
    sends[from] = true
    if (isAudio) sounds[from] = sounds[to] = true
  }
  return nodes.map((_, number) => sends[number]! && !sounds[number])
}
