/** Parts of the bench that are not in the way of the first sound: fetched when it is quiet, or when they are first asked for. */
export const loadFinder = () => import('./finder.tsx')
export const loadConnectLine = () => import('./connect-line.tsx')
/** What the inspector shows of a module. */
export const loadModuleInspector = () => import('./module-inspector.tsx')
/** Keys on screen; those of the computer play without. */
export const loadKeys = () => import('./keys.tsx')
