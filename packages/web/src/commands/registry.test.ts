import { describe, expect, it } from 'vitest'
import { chordOf, type KeyPress, keyWords, type View } from './command.ts'
import { isIn, Registry } from './registry.ts'
import { COMMANDS } from './all.ts'
import { EDIT_COMMANDS } from './edit.ts'
import { NEW_MENU, PATCH_MENU } from './patch.ts'

const VIEWS: readonly View[] = ['bench', 'guide', 'devices']
const press = (key: string, code = '', more: Partial<KeyPress> = {}): KeyPress => ({
  key,
  code,
  ctrlKey: false,
  metaKey: false,
  altKey: false,
  shiftKey: false,
  ...more,
})

describe('key presses', () => {
  it.each([
    [press('z', 'KeyZ', { ctrlKey: true }), 'Ctrl+Z'],
    [press('z', 'KeyZ', { metaKey: true }), 'Ctrl+Z'],
    [press('Z', 'KeyZ', { ctrlKey: true, shiftKey: true }), 'Ctrl+Shift+Z'],
    [press('?', 'Slash', { shiftKey: true }), '?'],
    [press('?', 'Minus', { shiftKey: true }), '?'],
    [press('/', 'Digit7', { shiftKey: true }), '/'],
    [press(' ', 'Space'), 'Space'],
    [press(' ', 'Space', { shiftKey: true }), 'Shift+Space'],
    [press('0', 'Digit0'), '0'],
    [press('Backspace', 'Backspace'), 'Backspace'],
    [press('Backspace', 'Backspace', { ctrlKey: true }), 'Ctrl+Backspace'],
    [press('ArrowLeft', 'ArrowLeft'), 'ArrowLeft'],
    [press('F2', 'F2'), 'F2'],
  ])('%o is %s', (given, chord) => {
    expect(chordOf(given)).toBe(chord)
  })

  it('are written as people read them', () => {
    expect(keyWords('ArrowLeft')).toBe('←')
    expect(keyWords('Escape Escape')).toBe('Esc Esc')
  })
})

describe('commands', () => {
  it('have an id of their own, words, and no key that another has in the same view', () => {
    expect(new Set(COMMANDS.map(({ id }) => id)).size).toBe(COMMANDS.length)
    for (const view of VIEWS) {
      const keys = COMMANDS.filter((command) => isIn(command, view)).flatMap((command) => command.keys ?? [])
      expect(new Set(keys).size, view).toBe(keys.length)
    }
    for (const { label } of COMMANDS) expect(label).toMatch(/^[A-Z].*[^.]$/)
  })

  it('that change the patch are for the bench alone', () => {
    for (const command of EDIT_COMMANDS) expect(command.views, command.id).toEqual(['bench'])
  })

  it('of a character are found wherever that stands, and digits with Shift by their place', () => {
    const registry = new Registry([
      { id: 'find', label: 'Find', group: 'Edit', keys: ['/'], run: () => undefined },
      { id: 'fit', label: 'Fit', group: 'Edit', keys: ['Shift+0'], run: () => undefined },
    ])
    expect(registry.forKey(press('/', 'Digit7', { shiftKey: true }), 'bench')?.id).toBe('find')
    expect(registry.forKey(press(')', 'Digit0', { shiftKey: true }), 'bench')?.id).toBe('fit')
    expect(registry.forKey(press('=', 'Digit0', { shiftKey: true }), 'bench')?.id).toBe('fit')
  })

  it('of the patch menu are there, New patch first', () => {
    const registry = new Registry(COMMANDS)
    expect([...NEW_MENU, ...PATCH_MENU].map((id) => registry.get(id).label)[0]).toBe('New patch')
    expect(() => registry.get('nothing of the kind')).toThrow('There is no command')
  })

  it('are found by their key in the views they are for', () => {
    const registry = new Registry(COMMANDS)
    const undo = press('z', 'KeyZ', { ctrlKey: true })
    expect(registry.forKey(undo, 'bench')?.id).toBe('undo')
    expect(registry.forKey(undo, 'guide')).toBeUndefined()
    expect(registry.forKey(press(' ', 'Space'), 'guide')?.id).toBe('transport')
  })
})
