import { createContext } from 'react'

/** Resolves when a patch is on the bench. */
export const ReadyContext = createContext<Promise<void>>(Promise.resolve())
