/** Cards on the chart: which there are, how they are selected and moved. */
import { applyNodeChanges, type NodeChange } from '@xyflow/react'
import { useCallback, useEffect, useMemo, useRef, useState } from 'react'
import type { App } from '../app/app.ts'
import { useApp, useDocument, useWorkspace } from '../app/context.ts'
import type { PlacedCard } from './cables.tsx'
import type { CardNode } from './card.tsx'
import { nodesOf } from './chart-nodes.ts'
import { cardLayout } from './geometry.ts'

export interface Cards {
  readonly nodes: CardNode[]
  /** By id, with the rows they show. */
  readonly placed: ReadonlyMap<string, PlacedCard>
  readonly onNodesChange: (changes: NodeChange<CardNode>[]) => void
  readonly onNodeDragStart: () => void
  readonly onNodeDragStop: (event: unknown, node: CardNode, moved: CardNode[]) => void
}

/** Escape while cards are dragged puts them back. */
const useGivingUp = (putBack: () => void) => {
  const drag = useRef<'none' | 'on' | 'given up'>('none')
  useEffect(() => {
    const giveUp = (event: KeyboardEvent): void => {
      if (event.key !== 'Escape' || drag.current !== 'on') return
      event.preventDefault()
      event.stopPropagation()
      drag.current = 'given up'
      putBack()
    }
    window.addEventListener('keydown', giveUp, true)
    return () => {
      window.removeEventListener('keydown', giveUp, true)
    }
  }, [putBack])
  return drag
}

/** What the chart itself changes: cards come and go with the patch alone, and stay where they were put back. */
const wanted = (changes: NodeChange<CardNode>[], isGivenUp: boolean): NodeChange<CardNode>[] =>
  changes.filter(
    ({ type }) => type !== 'remove' && type !== 'dimensions' && !(type === 'position' && isGivenUp),
  )

const select = ({ workspace }: App, changes: readonly NodeChange<CardNode>[]): void => {
  const selects = changes.filter((item) => item.type === 'select')
  if (selects.length === 0) return
  const next = new Set(workspace.getState().selection)
  for (const { id, selected } of selects)
    if (selected) next.add(id)
    else next.delete(id)
  workspace.getState().select([...next])
}

export const useCards = (): Cards => {
  const app = useApp()
  const patch = useDocument((state) => state.patch)
  const selection = useWorkspace((state) => state.selection),
    open = useWorkspace((state) => state.open)
  const [nodes, setNodes] = useState<CardNode[]>([])
  const build = useCallback(() => {
    setNodes((before) => nodesOf(patch, before, new Set(selection), open))
  }, [patch, selection, open])
  useEffect(build, [build])
  const drag = useGivingUp(build)
  const placed = useMemo(
    () =>
      new Map(
        nodes.map((node): [string, PlacedCard] => [
          node.id,
          {
            id: node.id,
            x: node.position.x,
            y: node.position.y,
            layout: cardLayout(patch, node.data.module, open.has(node.id)),
          },
        ]),
      ),
    [nodes, patch, open],
  )
  const onNodesChange = useCallback(
    (changes: NodeChange<CardNode>[]) => {
      setNodes((before) => applyNodeChanges(wanted(changes, drag.current === 'given up'), before))
      select(app, changes)
    },
    [app, drag],
  )
  const onNodeDragStart = useCallback(() => {
    drag.current = 'on'
  }, [drag])
  const onNodeDragStop = useCallback(
    (_event: unknown, _node: CardNode, moved: CardNode[]) => {
      const isGivenUp = drag.current === 'given up'
      drag.current = 'none'
      if (isGivenUp) return
      const places = new Map(moved.map((node) => [node.id, node.position]))
      app.document
        .getState()
        .change(moved.length === 1 ? 'Move a module' : `Move ${moved.length} modules`, (draft) => {
          for (const module of draft.modules) Object.assign(module, places.get(module.id))
        })
    },
    [app, drag],
  )
  return { nodes, placed, onNodesChange, onNodeDragStart, onNodeDragStop }
}
