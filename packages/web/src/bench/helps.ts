/** The long help of modules. */
import helpsUrl from '@ypsilon/core/generated/helps.json?url'
import type { Help } from '@ypsilon/core'
import { fileApart } from './apart.ts'

type Words = Pick<Help, 'how' | 'ranges' | 'start'>
const NOTHING: Words = { how: '', ranges: '', start: '' }
const FAILED: Words = { ...NOTHING, how: 'The help could not be loaded: reload the page to read it.' }

const useHelps = fileApart<Words>(helpsUrl)

/** Help of a type of module; empty until it is there. */
export const useHelp = (type: string): Words => {
  const words = useHelps(type)
  return words === null ? FAILED : (words ?? NOTHING)
}
