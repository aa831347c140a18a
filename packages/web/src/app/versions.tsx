/** Versions of the patch on the bench: kept by themselves and by hand, compared with now, restored. */
import { differences, differenceWords, type Patch } from '@ypsilon/core'
import { useCallback, useEffect, useMemo, useState } from 'react'
import { failureWords } from '../kept/database.ts'
import type { Version } from '../kept/records.ts'
import { Button } from '../ui/button.tsx'
import { Window } from '../ui/dialog.tsx'
import { Empty } from '../ui/panel.tsx'
import { useApp, useDocument } from './context.ts'
import { restoreVersion } from './restore.ts'

const nameOf = ({ name, at }: Version): string => name || `the version of ${new Date(at).toLocaleString()}`

const Row = ({ version, patch, onRestored }: { version: Version; patch: Patch; onRestored: () => void }) => {
  const app = useApp()
  const found = useMemo(() => differences(version.patch, patch), [version, patch])
  const details = [
    ...found.modulesAdded.map((id) => `+ ${id}`),
    ...found.modulesRemoved.map((id) => `− ${id}`),
    ...found.cablesAdded.map((ends) => `+ ${ends}`),
    ...found.cablesRemoved.map((ends) => `− ${ends}`),
    ...found.values.map(({ target, before, after }) => `${target} ${before} → ${after}`),
  ]
  return (
    <li className="border-t border-rule py-2">
      <div className="flex items-center gap-2">
        <span className="min-w-0 flex-1">
          <span className="block font-semibold">{version.name || 'Kept by itself'}</span>
          <span className="block text-12 text-ink2">{new Date(version.at).toLocaleString()}</span>
        </span>
        <Button
          look="small"
          aria-label={`Show on the chart what differs from ${nameOf(version)}`}
          onClick={() => {
            app.workspace.getState().compare({ name: nameOf(version), patch: version.patch })
            onRestored()
          }}
        >
          On the chart
        </Button>
        <Button
          look="small"
          aria-label={`Restore ${nameOf(version)}`}
          onClick={() => {
            restoreVersion(app.document, { name: nameOf(version), patch: version.patch })
            onRestored()
          }}
        >
          Restore
        </Button>
      </div>
      <p className="m-0 mt-1 text-12">Since then: {differenceWords(found)}.</p>
      {details.length > 0 && (
        <details className="text-12">
          <summary className="cursor-pointer text-ink2">What differs</summary>
          <ul className="mono m-0 max-h-32 list-none overflow-auto p-0">
            {details.map((line) => (
              <li key={line}>{line}</li>
            ))}
          </ul>
        </details>
      )}
    </li>
  )
}

/** Versions of a document, newest first. */
const useVersions = (id: string | undefined) => {
  const app = useApp()
  const [versions, setVersions] = useState<readonly Version[]>([])
  const read = useCallback(async (): Promise<void> => {
    if (id === undefined) return
    try {
      setVersions(await app.kept.versions(id))
    } catch (error) {
      app.notifier.error(`The versions could not be read: ${failureWords(error)}`)
    }
  }, [app, id])
  useEffect(() => {
    void read()
  }, [read])
  return { versions, read }
}

export const VersionsDialog = ({ onClose }: { readonly onClose: () => void }) => {
  const app = useApp()
  const id = useDocument((state) => state.id),
    patch = useDocument((state) => state.patch)
  const { versions, read } = useVersions(id)
  const [name, setName] = useState('')
  const keep = async (): Promise<void> => {
    await app.desk.keeping.keepVersion(name.trim() || 'By hand', false)
    setName('')
    await read()
  }
  return (
    <Window title={`Versions of ${patch.name}`} isOpen onClose={onClose} isWide onClosed={app.afterMenu}>
      {id === undefined ? (
        <Empty>This patch has not been changed yet. Its versions begin with the first step.</Empty>
      ) : (
        <>
          <form
            className="mb-3 flex gap-2"
            onSubmit={(event) => {
              event.preventDefault()
              void keep()
            }}
          >
            <input
              className="search-field flex-1"
              aria-label="Name of the version"
              placeholder="Name of a version as it is now"
              value={name}
              onChange={(event) => {
                setName(event.target.value)
              }}
            />
            <Button look="main" type="submit">
              Keep
            </Button>
          </form>
          {versions.length === 0 ? (
            <Empty>
              Versions are kept by themselves after ten minutes of change and before much is deleted.
            </Empty>
          ) : (
            <ul className="m-0 max-h-[420px] list-none overflow-auto p-0">
              {versions.map((version) => (
                <Row key={version.at} version={version} patch={patch} onRestored={onClose} />
              ))}
            </ul>
          )}
        </>
      )}
    </Window>
  )
}
