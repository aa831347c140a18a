/** The long help of modules: a file of its own, fetched when it is first shown. */
import helpsUrl from '@ypsilon/core/generated/helps.json?url'
import type { Help } from '@ypsilon/core'
import { useEffect, useState } from 'react'

type Words = Pick<Help, 'how' | 'ranges' | 'start'>
const NOTHING: Words = { how: '', ranges: '', start: '' }
const FAILED: Words = { ...NOTHING, how: 'The help could not be loaded: reload the page to read it.' }

let asked: Promise<ReadonlyMap<string, Words>> | undefined
let known: ReadonlyMap<string, Words> | undefined

const load = async (): Promise<ReadonlyMap<string, Words>> => {
  const response = await fetch(helpsUrl)
  if (!response.ok) throw new Error(String(response.status))
  return new Map(Object.entries((await response.json()) as Record<string, Words>))
}

/** Help of a type of module; empty until it is there. */
export const useHelp = (type: string): Words => {
  const [helps, setHelps] = useState(known)
  const [hasFailed, setFailed] = useState(false)
  useEffect(() => {
    if (helps) return
    asked ??= load()
    asked.then(
      (all) => {
        known = all
        setHelps(all)
      },
      () => {
        // The next one asks again.
        asked = undefined
        setFailed(true)
      },
    )
  }, [helps])
  return helps?.get(type) ?? (hasFailed ? FAILED : NOTHING)
}
