/**
 * Layers of a patch from left to right by the layered method of Sugiyama et al. (1981), as the Eclipse Layout Kernel has
 * it: cycles are broken, links point to the right and are short, crossings are few. The kernel runs elsewhere: what is
 * here says what it is asked and reads its answer.
 */
import type { Sketch } from './sketch.ts'

/** What the layout kernel is asked; it answers with the same, places filled in. */
export interface ElkGraph {
  readonly id: string
  readonly layoutOptions: Readonly<Record<string, string>>
  readonly children: readonly ElkBox[]
  readonly edges: readonly {
    readonly id: string
    readonly sources: string[]
    readonly targets: string[]
    readonly layoutOptions: Readonly<Record<string, string>>
  }[]
}
interface ElkBox {
  readonly id: string
  readonly width: number
  readonly height: number
  readonly ports: readonly { readonly id: string; readonly x: number; readonly y: number }[]
  readonly layoutOptions: Readonly<Record<string, string>>
}
/** Its answer: boxes with places. */
export interface ElkAnswer {
  readonly children?: readonly { readonly id: string; readonly x?: number; readonly y?: number }[]
}
/** Runs the layout kernel. */
export type Kernel = (graph: ElkGraph) => Promise<ElkAnswer>

/** All boxes are as wide as this in the question: what has the same x in the answer stands in one layer. */
const WIDTH = 100

const OPTIONS = {
  'elk.algorithm': 'layered',
  'elk.direction': 'RIGHT',
  'elk.randomSeed': '1',
  'elk.separateConnectedComponents': 'false',
  'elk.layered.thoroughness': '20',
  'elk.layered.layering.strategy': 'NETWORK_SIMPLEX',
  'elk.layered.considerModelOrder.strategy': 'PREFER_EDGES',
} as const

export const questionOf = ({ nodes, links }: Sketch): ElkGraph => {
  const ports = nodes.map((): { id: string; x: number; y: number }[] => [])
  links.forEach(({ from, to, fromY, toY }, link) => {
    ports[from]!.push({ id: `o${link}`, x: WIDTH, y: fromY })
    ports[to]!.push({ id: `i${link}`, x: 0, y: toY })
  })
  return {
    id: 'patch',
    layoutOptions: OPTIONS,
    children: nodes.map(({ height }, node) => ({
      id: `n${node}`,
      width: WIDTH,
      height,
      layoutOptions: { 'elk.portConstraints': 'FIXED_POS' },
      ports: ports[node]!,
    })),
    edges: links.map(({ isAudio }, link) => ({
      id: `e${link}`,
      sources: [`o${link}`],
      targets: [`i${link}`],
      // Where links go round in a ring, what moves turns back rather than the sound.
      layoutOptions: {
        'elk.layered.priority.direction': isAudio ? '10' : '1',
        'elk.layered.priority.shortness': isAudio ? '4' : '1',
      },
    })),
  }
}

export interface Layers {
  /** Layer of each node, from 0. */
  readonly layer: readonly number[]
  /** Where it stands among those of its layer: any ascending numbers. */
  readonly order: readonly number[]
}

export const layersIn = ({ nodes }: Sketch, { children = [] }: ElkAnswer): Layers => {
  const places = new Map(children.map(({ id, x = 0, y = 0 }) => [id, { x: Math.round(x), y }]))
  const at = nodes.map((_, node) => places.get(`n${node}`) ?? { x: 0, y: 0 })
  const xs = [...new Set(at.map(({ x }) => x))].sort((a, b) => a - b),
    layers = new Map(xs.map((x, layer) => [x, layer]))
  return { layer: at.map(({ x }) => layers.get(x)!), order: at.map(({ y }) => y) }
}
