import { mib } from '@ypsilon/core'
import { useEffect } from 'react'
import { useApp, useDocument, useDocuments } from '../app/context.ts'
import type { Head } from '../kept/records.ts'
import { ASIDE_MS } from '../kept/documents.ts'
import { Button } from '../ui/button.tsx'
import { Empty } from '../ui/panel.tsx'

const DAY_MS = 24 * 3600 * 1000
const NAMES: Readonly<Record<Head['kind'], string>> = {
  patch: 'patches',
  section: 'sections',
  module: 'own modules',
  preset: 'presets',
  table: 'tables',
  sample: 'samples',
  take: 'takes',
  map: 'controller maps',
}

const daysLeft = (head: Head, now: number): number =>
  Math.max(0, Math.ceil(((head.putAside ?? now) + ASIDE_MS - now) / DAY_MS))

const AsideRow = ({ head }: { readonly head: Head }) => {
  const { desk, kept, documents, notifier } = useApp()
  const takeBack = async (): Promise<void> => {
    if (head.kind === 'patch') await desk.takeBack(head.id)
    else {
      await kept.takeBack(head.id)
      await documents.getState().refresh()
    }
    notifier.success(`${head.name} is back.`)
  }
  const remove = async (): Promise<void> => {
    await kept.erase(head.id)
    await documents.getState().refresh()
  }
  const left = daysLeft(head, Date.now())
  return (
    <tr>
      <td>{head.name}</td>
      <td className="text-ink2">{head.fault ?? `goes in ${left} ${left === 1 ? 'day' : 'days'}`}</td>
      <td className="whitespace-nowrap text-right">
        <Button look="small" aria-label={`Take ${head.name} back`} onClick={() => void takeBack()}>
          Take back
        </Button>{' '}
        <Button look="small" aria-label={`Delete ${head.name} for good`} onClick={() => void remove()}>
          Delete for good
        </Button>
      </td>
    </tr>
  )
}

const Room = () => {
  const space = useDocuments((state) => state.space),
    failure = useDocuments((state) => state.failure)
  if (failure !== undefined) return <p className="text-warn">The browser keeps nothing: {failure}</p>
  if (!space) return <Empty>The browser does not say how much room there is.</Empty>
  const share = space.quota > 0 ? space.used / space.quota : 0
  return (
    <div className="mb-3">
      <p className="mb-1">
        <span className="mono">{mib(space.used)}</span> used of{' '}
        <span className="mono">{mib(space.quota)}</span>
      </p>
      <progress className="room" max={1} value={share} aria-label="Room used" />
    </div>
  )
}

/** What is kept: how much of it, how much room is left, and what was put aside. */
export const KeptList = () => {
  const { documents } = useApp()
  const heads = useDocuments((state) => state.heads)
  const saved = useDocument((state) => state.saved)
  useEffect(() => {
    void documents.getState().refresh()
  }, [documents, saved])
  const there = heads.filter((head) => head.putAside === undefined),
    aside = heads.filter((head) => head.putAside !== undefined)
  const kinds = [...new Set(there.map(({ kind }) => kind))]
  return (
    <>
      <Room />
      <p>
        {kinds.length === 0
          ? 'Nothing yet: a patch is kept from its first change on.'
          : kinds
              .map((kind) => `${there.filter((head) => head.kind === kind).length} ${NAMES[kind]}`)
              .join(', ')}
      </p>
      <h3 className="panel-title mb-1 mt-4">Put aside</h3>
      {aside.length === 0 ? (
        <Empty>What you put aside stays here for 30 days.</Empty>
      ) : (
        <table className="table">
          <tbody>
            {aside.map((head) => (
              <AsideRow key={head.id} head={head} />
            ))}
          </tbody>
        </table>
      )}
    </>
  )
}
