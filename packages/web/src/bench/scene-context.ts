/** The scene of the chart, for the components on it. */
import { createContext, useContext } from 'react'
import { useStore } from 'zustand'
import type { Pointing } from './chart/pointing.ts'
import type { Scene } from './chart/scene.ts'
import type { SceneState } from './chart/scene-state.ts'

export interface OnChart {
  readonly scene: Scene
  readonly pointing: Pointing
}

export const ChartContext = createContext<OnChart | undefined>(undefined)

const useOnChart = (): OnChart => {
  const found = useContext(ChartContext)
  if (!found) throw new Error('There is no chart around this component')
  return found
}
export const useScene = (): Scene => useOnChart().scene
export const usePointing = (): Pointing => useOnChart().pointing
/** A part of what the scene shows. */
export const useSceneState = <T>(select: (state: SceneState) => T): T => useStore(useScene().store, select)
