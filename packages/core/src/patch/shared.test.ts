import { produce } from 'immer'
import { describe, expect, it } from 'vitest'
import { compile } from '../compile/compile.ts'
import { duplicate } from './duplicate.ts'
import { addModule } from './edits.ts'
import type { Patch } from './types.ts'
import { checkPatch } from './validate.ts'

describe('names that one module has alone', () => {
  const names = (patch: Patch): string[] =>
    patch.modules.map(({ id, params }) => `${id} ${String(params?.['name'] ?? 'tape')}`)

  it('are given afresh to what comes in, and followed by what came with it', () => {
    const start = checkPatch({ format: 'ypsilon/patch', version: 1, modules: [], cables: [] })
    if (!start.ok) throw new Error('no patch')
    const two = produce(start.value, (draft) => {
      addModule(draft, 'buffer', 0, 0)
      addModule(draft, 'reader', 0, 0)
      addModule(draft, 'buffer', 0, 0)
    })
    expect(names(two)).toEqual(['buffer tape', 'reader tape', 'buffer2 tape2'])
    const four = produce(two, (draft) => void duplicate(draft, ['buffer', 'reader'], 10))
    expect(names(four).slice(3)).toEqual(['buffer3 tape3', 'reader2 tape3'])
    expect(names(produce(four, (draft) => void duplicate(draft, ['reader2'], 10))).at(-1)).toBe(
      'reader3 tape3',
    )
    expect(compile(four).ok).toBe(true)
  })
})
