/** Files of words and settings beside the page's code: each fetched once, when it is first shown. */
import { useEffect, useState } from 'react'

/** A file of records by type of module; its reader gives undefined until it is there, and null where it does not come. */
export const fileApart = <T>(url: string): ((type: string) => T | null | undefined) => {
  let asked: Promise<ReadonlyMap<string, T>> | undefined
  let known: ReadonlyMap<string, T> | undefined
  const load = async (): Promise<ReadonlyMap<string, T>> => {
    const response = await fetch(url)
    if (!response.ok) throw new Error(String(response.status))
    return new Map(Object.entries((await response.json()) as Record<string, T>))
  }
  return (type) => {
    const [records, setRecords] = useState(known)
    const [hasFailed, setFailed] = useState(false)
    useEffect(() => {
      if (records) return
      asked ??= load()
      asked.then(
        (all) => {
          known = all
          setRecords(all)
        },
        () => {
          // The next one asks again.
          asked = undefined
          setFailed(true)
        },
      )
    }, [records])
    return hasFailed && !records ? null : records?.get(type)
  }
}
