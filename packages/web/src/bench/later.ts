/** Parts of the bench that are not in the way of the first sound: fetched when it is quiet, or when they are first asked for. */
export const loadFinder = () => import('./finder.tsx')
export const loadConnectLine = () => import('./connect-line.tsx')
/** What the inspector shows of a module. */
export const loadModuleInspector = () => import('./module-inspector.tsx')
let letProbeCome: () => void = () => undefined
const probeMayCome = new Promise<void>((resolve) => {
  letProbeCome = resolve
})
/** The dock shows the probe from the begin on: it comes when it is quiet, or when something is to be looked at. */
export const bringProbe = (): void => {
  letProbeCome()
}
/** What is measured in the dock. */
export const loadProbe = async () => {
  await probeMayCome
  return import('./probe/probe.tsx')
}
/** Keys on screen; those of the computer play without. */
export const loadKeys = () => import('./keys.tsx')
