/** What every card costs, written at its corner while it is asked for. */
import type { PatchModule } from '@ypsilon/core'
import { useEffect, useRef, useState } from 'react'
import { useApp, useDocument } from '../app/context.ts'
import { measureLoads } from '../audio/offline.ts'
import { useSceneState } from './scene-context.ts'

/** The patch is measured anew when it has rested for so long. */
const REST_MS = 1200

type Loads = ReadonlyMap<string, number>

/** Shares of the machine's time by module; what runs together is shared evenly. */
const useLoads = (): Loads | undefined => {
  const { notifier } = useApp()
  const patch = useDocument((state) => state.patch)
  const [loads, setLoads] = useState<Loads | undefined>(undefined)
  const hasBegun = useRef(false)
  useEffect(() => {
    let isOld = false
    const timer = setTimeout(
      () => {
        measureLoads(patch).then(
          (found) => {
            if (isOld) return
            setLoads(
              new Map(found.flatMap(({ ids, share }) => ids.map((id) => [id, share / ids.length] as const))),
            )
          },
          (error: unknown) => {
            if (!isOld) notifier.error(`The modules could not be measured: ${(error as Error).message}`)
          },
        )
      },
      hasBegun.current ? REST_MS : 0,
    )
    hasBegun.current = true
    return () => {
      isOld = true
      clearTimeout(timer)
    }
  }, [patch, notifier])
  return loads
}

/** Of a group: of all that is in it. */
const loadOf = (module: PatchModule, loads: Loads): number =>
  (loads.get(module.id) ?? 0) +
  (module.inside?.modules ?? []).reduce((sum, inner) => sum + loadOf(inner, loads), 0)

export const CardLoads = () => {
  const loads = useLoads(),
    seen = useSceneState((state) => state.seen),
    scale = useSceneState((state) => (state.distance === 'near' ? 1 : state.scale))
  if (!loads) return null
  return seen.map(({ card: { id, y, box, module } }) => (
    <span
      key={id}
      className="card-load mono"
      data-load={id}
      style={{ left: box.right, top: y, fontSize: 11 * scale }}
      aria-label={`Load of ${id}`}
    >
      {(100 * loadOf(module, loads)).toFixed(1)} %
    </span>
  ))
}
