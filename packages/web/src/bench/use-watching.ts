/** Asks the engine only for pictures of what can be seen. */
import type { Patch } from '@ypsilon/core'
import { useReactFlow, useStore } from '@xyflow/react'
import { useEffect } from 'react'
import { useApp, useWorkspace } from '../app/context.ts'
import type { CardNode } from './card.tsx'
import { CARD_WIDTH, cardLayout } from './geometry.ts'
import { outputSource } from './probe-source.ts'

/** Pans and zooms by less than this change nothing. */
const STEP = 40

export const useWatching = (patch: Patch, nodes: readonly CardNode[], open: ReadonlySet<string>): void => {
  const { engine } = useApp()
  const transform = useStore((state) => state.transform.map((value) => Math.round(value / STEP)).join())
  const width = useStore((state) => state.width),
    height = useStore((state) => state.height)
  const { getViewport } = useReactFlow()
  const pinned = useWorkspace((state) => state.probe)
  const probe = pinned ?? outputSource(patch)
  useEffect(() => {
    const { x, y, zoom } = getViewport()
    const isSeen = ({ position, height: cardHeight = 100 }: CardNode): boolean => {
      const left = position.x * zoom + x,
        top = position.y * zoom + y
      return left <= width && top <= height && left + CARD_WIDTH * zoom >= 0 && top + cardHeight * zoom >= 0
    }
    const keys: string[] = probe === undefined ? [] : [probe]
    for (const node of nodes.filter(isSeen)) {
      const { module } = node.data
      const layout = cardLayout(patch, module, open.has(module.id)),
        connected = new Set(node.data.inputs.split(' '))
      for (const port of layout.outputs) keys.push(`${module.id}.${port.name}`)
      for (const row of layout.rows)
        if (row.kind === 'param' && connected.has(row.param.name))
          keys.push(`>${module.id}.${row.param.name}`)
    }
    engine.pictures.watch(keys)
  }, [engine, patch, nodes, open, transform, width, height, probe, getViewport])
}
