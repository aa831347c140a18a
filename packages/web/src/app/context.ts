/** How components reach what the page is made of. */
import { levelPatch, type Patch } from '@ypsilon/core'
import { createContext, useContext } from 'react'
import { useStore } from 'zustand'
import type { DevicesState } from '../store/devices.ts'
import type { DocumentState } from '../store/document.ts'
import type { DocumentsState } from '../store/documents.ts'
import type { ProbeState } from '../store/probe.ts'
import type { TakesState } from '../store/takes.ts'
import type { TransportState } from '../store/transport.ts'
import type { WorkspaceState } from '../store/workspace.ts'
import type { App } from './app.ts'

export const AppContext = createContext<App | undefined>(undefined)

/** Everything the page is made of; throws outside of it. */
export const useApp = (): App => {
  const app = useContext(AppContext)
  if (!app) throw new Error('This component stands outside the page')
  return app
}

export const useDocument = <T>(select: (state: DocumentState) => T): T => useStore(useApp().document, select)
export const useDocuments = <T>(select: (state: DocumentsState) => T): T =>
  useStore(useApp().documents, select)
export const useWorkspace = <T>(select: (state: WorkspaceState) => T): T =>
  useStore(useApp().workspace, select)
/** What the chart shows: the patch, or what stands in the group that is opened, as a patch of its own. */
export const useLevel = <T>(select: (level: Patch) => T): T => {
  const group = useWorkspace((state) => state.group)
  return useDocument(({ patch }) => select(levelPatch(patch, group)))
}
export const useTransport = <T>(select: (state: TransportState) => T): T =>
  useStore(useApp().transport, select)
export const useProbe = <T>(select: (state: ProbeState) => T): T => useStore(useApp().probe, select)
export const useDevices = <T>(select: (state: DevicesState) => T): T => useStore(useApp().devices, select)
export const useTakes = <T>(select: (state: TakesState) => T): T => useStore(useApp().takes, select)
