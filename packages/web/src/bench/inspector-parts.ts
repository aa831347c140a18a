/** What the inspector shows of a module: fetched with the first that is selected, or when it is quiet. */
export const loadModuleInspector = () => import('./module-inspector.tsx')
