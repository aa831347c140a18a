import { describe, expect, it } from 'vitest'
import { applyChange, edit, revertChange } from '../patch/document.ts'
import type { Patch } from '../patch/types.ts'
import { demoPatch } from '../testing/patches.ts'
import {
  addFrame,
  addNote,
  carriedBy,
  marksOf,
  modulesIn,
  moveMark,
  removeMark,
  sizeMark,
  writeMark,
} from './marks.ts'

const made = (patch: Patch, recipe: Parameters<typeof edit>[2]): Patch => {
  const result = edit(patch, 'Test', recipe)
  if (!result.ok) throw new Error(result.faults[0]!.message)
  // What is written is read back, and every step has its exact inverse.
  expect(marksOf(revertChange(result.patch, result.change))).toEqual(marksOf(patch))
  expect(marksOf(applyChange(patch, result.change))).toEqual(marksOf(result.patch))
  return result.patch
}
const lamp = (): Patch => demoPatch('reed-lamp')
const places = (patch: Patch): Map<string, readonly [number, number]> =>
  new Map(patch.modules.map(({ id, x = 0, y = 0 }) => [id, [x, y]]))

describe('frames and notes', () => {
  it('a frame holds what it was made for, and moves that and what is written in it', () => {
    let id: string | undefined
    let patch = made(lamp(), (draft) => {
      id = addFrame(draft, new Set(['low', 'high']), 'Reeds')
    })
    const frame = marksOf(patch).frames[0]!
    expect(frame).toMatchObject({ id, title: 'Reeds' })
    expect(modulesIn(patch, frame).sort()).toEqual(['high', 'low'])
    patch = made(patch, (draft) => {
      draft['view'] = {
        ...(draft['view'] as object),
        notes: [{ id: 'inside', text: '', x: frame.x + 12, y: frame.y + 12, width: 60, height: 36 }],
      }
    })
    expect(carriedBy(patch, frame.id)).toEqual({ modules: ['low', 'high'], marks: [frame.id, 'inside'] })
    const before = places(patch)
    const after = made(patch, (draft) => {
      moveMark(draft, frame.id, 36, -24)
    })
    for (const [module, [x, y]] of places(after)) {
      const [a, b] = before.get(module)!
      const isIn = module === 'low' || module === 'high'
      expect([x - a, y - b], module).toEqual(isIn ? [36, -24] : [0, 0])
    }
    expect(marksOf(after).notes[0]).toMatchObject({ x: frame.x + 48, y: frame.y - 12 })
  })

  it('notes come to stand on no card and on no note, are written, sized and taken away', () => {
    let patch = lamp()
    for (let n = 0; n < 6; n += 1)
      patch = made(patch, (draft) => {
        addNote(draft, { x: 300, y: 120 }, `${n}`)
      })
    const { notes } = marksOf(patch)
    expect(new Set(notes.map(({ id }) => id)).size).toBe(6)
    notes.forEach((a, n) => {
      for (const b of notes.slice(n + 1))
        expect(
          a.x >= b.x + b.width || a.x + a.width <= b.x || a.y >= b.y + b.height || a.y + a.height <= b.y,
        ).toBe(true)
    })
    const { id } = notes[2]!
    patch = made(patch, (draft) => {
      writeMark(draft, id, 'Slowly')
      sizeMark(draft, id, 3, 900)
    })
    const note = marksOf(patch).notes.find((item) => item.id === id)!
    expect(note.text).toBe('Slowly')
    expect(note.width).toBeGreaterThan(60)
    expect(note.height).toBe(900)
    patch = made(patch, (draft) => {
      removeMark(draft, id)
    })
    expect(marksOf(patch).notes).toHaveLength(5)
  })

  it('what another version has written otherwise is not shown, and stays', () => {
    const strange = { id: 'x', title: 'Round', radius: 4 }
    const patch: Patch = { ...lamp(), view: { frames: [strange, 7, null], later: true } }
    expect(marksOf(patch).frames).toEqual([])
    const after = made(patch, (draft) => {
      addFrame(draft, new Set(['low']), 'Low')
    })
    expect(marksOf(after).frames).toHaveLength(1)
    expect((after['view'] as { frames: unknown[]; later: boolean }).frames.slice(0, 3)).toEqual([
      strange,
      7,
      null,
    ])
    expect((after['view'] as { later: boolean }).later).toBe(true)
    expect(marksOf({ ...lamp(), view: { frames: 'none' } }).frames).toEqual([])
  })
})
