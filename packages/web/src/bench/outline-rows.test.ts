import { edit, emptyPatch, type Patch } from '@ypsilon/core'
import { makeGroup } from '@ypsilon/core/patch/grouping.ts'
import { describe, expect, it } from 'vitest'
import { outlineRows, rowAround } from './outline-rows.ts'

const voice = (): Patch => ({
  ...emptyPatch('Tone'),
  modules: [
    { id: 'osc', type: 'oscillator' },
    { id: 'env', type: 'envelope' },
    { id: 'filter', type: 'filter', params: { cutoff: 800 } },
    { id: 'amp', type: 'amplifier' },
    { id: 'out', type: 'output' },
  ],
  cables: [
    { id: 'saw', from: 'osc.saw', to: 'filter.in' },
    { id: 'sweep', from: 'env.env', to: 'filter.cutoff', amount: 2 },
    { id: 'low', from: 'filter.low', to: 'amp.in' },
    { id: 'dry', from: 'amp.out', to: 'out.in' },
  ],
})
const grouped = (patch: Patch, ids: readonly string[]): { patch: Patch; id: string } => {
  let id: string | undefined
  const result = edit(patch, 'Group', (draft) => {
    id = makeGroup(draft, new Set(ids))
  })
  if (!result.ok || id === undefined) throw new Error('no group')
  return { patch: result.patch, id }
}

const rowsOf = (patch: Parameters<typeof outlineRows>[0], ...open: string[]): string[] =>
  outlineRows(patch, new Set(open)).map(
    ({ depth, label, aside }) => `${'  '.repeat(depth - 1)}${label}|${aside}`,
  )

describe('the outline', () => {
  it('has a row for every module, and for all of what is in those that are open', () => {
    const patch = voice()
    expect(rowsOf(patch)).toHaveLength(patch.modules.length)
    const rows = rowsOf(patch, 'filter')
    expect(rows).toContain('  in|')
    expect(rows).toContain('    from Oscillator saw|')
    expect(rows).toContain('  Cutoff|800 Hz')
    expect(rows).toContain('    from Envelope env|+2 oct')
    expect(rows).toContain('  band|not connected')
    expect(rows).toContain('    to Amplifier in|')
  })

  it('goes into groups, whose rows of what they show are values of what is inside', () => {
    const { patch, id } = grouped(voice(), ['filter', 'amp'])
    const shown = {
      ...patch,
      modules: patch.modules.map((module) =>
        module.id === id
          ? { ...module, label: 'Tone', face: [{ param: 'filter.cutoff', label: 'Bright' }] }
          : module,
      ),
    }
    const rows = rowsOf(shown, id, 'filter')
    expect(rows).toContain('Tone|group')
    expect(rows).toContain('  Bright|800 Hz')
    expect(rows).toContain('  Filter|')
    expect(rows).toContain('    Cutoff|800 Hz')
  })

  it('has every key once, and every row but those on the bench stands in one', () => {
    const { patch, id } = grouped(voice(), ['osc', 'filter', 'amp'])
    const rows = outlineRows(patch, new Set([id, 'osc', 'filter', 'amp', 'env', 'out']))
    expect(new Set(rows.map(({ key }) => key)).size).toBe(rows.length)
    rows.forEach((row, at) => {
      const around = rowAround(rows, at)
      expect(around < 0, row.key).toBe(row.depth === 1)
      if (around >= 0) expect(rows[around]!.depth).toBe(row.depth - 1)
    })
  })

  it('has the data a module keeps, as it would be typed', () => {
    const patch: Patch = {
      ...voice(),
      modules: [
        {
          id: 'seq',
          type: 'steps',
          data: { a: [0, 7, -5], tie: [false, true], points: [] },
        },
        { id: 'own', type: 'formula', data: { text: 'x = a * 2' } },
      ],
      cables: [],
    }
    const rows = rowsOf(patch, 'seq', 'own')
    expect(rows).toContain('  a, data|0 7 -5')
    expect(rows).toContain('  tie, data|0 1')
    expect(rows).toContain('  b, data|empty')
    expect(rows).toContain('  text, data|x = a * 2')
  })

  it('has frames and notes after the modules of their level', () => {
    const { patch, id } = grouped(voice(), ['filter', 'amp'])
    const view = {
      frames: [{ id: 'f', title: 'Reeds', x: -10, y: -40, width: 4000, height: 4000 }],
      notes: [{ id: 'n', text: 'By ear.', x: 0, y: 0, width: 192, height: 72 }],
    }
    const marked = {
      ...patch,
      view: { notes: [], frames: [] },
      modules: patch.modules.map((module) =>
        module.id === id ? { ...module, inside: { ...module.inside!, view } } : module,
      ),
    }
    expect(rowsOf(marked).some((row) => row.includes('Reeds'))).toBe(false)
    const rows = rowsOf(marked, id)
    expect(rows).toContain('  Note|By ear.')
    expect(rows.some((row) => /^ {2}Frame of \d+ modules?\|Reeds$/.test(row))).toBe(true)
    expect(
      rowsOf({ ...marked, view })
        .slice(-2)
        .map((row) => row.split('|')[1]),
    ).toEqual(['Reeds', 'By ear.'])
  })
})
