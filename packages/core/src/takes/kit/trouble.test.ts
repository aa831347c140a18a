/** Kits when something goes wrong: one render, all of them, a stop; and what the user is told. */
import { describe, expect, it } from 'vitest'
import { patchOf } from '../../testing/bench.ts'
import { kitMade, kitOf, makeKit, MemoryStore, planOf } from '../../testing/kits.ts'
import { steadyVoice } from '../../testing/patches.ts'
import { KitStop } from './run.ts'

const SHORT = { notes: [60], hold: 0.1, tail: { most: 0.3 } }
const noisy = steadyVoice([['h', 'noise', { level: 0.3 }]], ['h.white > f.in'])

describe('when something goes wrong', () => {
  const plan = planOf(
      kitOf({ ...SHORT, notes: [50, 52, 54, 56], align: { mode: 'notes', lufs: -20 }, sfz: true }),
      noisy,
    ),
    source = { patch: noisy, assets: new Map() }
  const whole = async (): Promise<MemoryStore> => {
    const store = new MemoryStore()
    await makeKit({ plan, source, store })
    return store
  }
  /** Every byte of every file. */
  const textOf = ({ files }: MemoryStore): string =>
    [...files]
      .sort(([a], [b]) => (a < b ? -1 : 1))
      .map(([name, bytes]) => `${name} ${bytes.join()}`)
      .join('\n')
  it('in one render, the others are kept, and the next run does that one alone', async () => {
    const store = new MemoryStore()
    const first = await makeKit({
      plan,
      source,
      store,
      before: (name) => {
        if (name.endsWith('54')) throw new Error('out of memory')
      },
    })
    expect(first.failed).toEqual([{ index: 2, name: 'Test-54', message: 'out of memory' }])
    expect(first.files).toEqual([])
    expect([...store.files.keys()]).toEqual([])
    const tasks: string[] = []
    const second = await makeKit({ plan, source, store, before: (name) => tasks.push(name) })
    expect(second.failed).toEqual([])
    expect(tasks).toEqual(['Test-54', 'Test-50', 'Test-52', 'Test-54', 'Test-56'])
    expect(textOf(store)).toBe(textOf(await whole()))
  })
  it('that stops everything, nothing more is begun and it is thrown', async () => {
    let begun = 0
    const store = new MemoryStore()
    await expect(
      makeKit({
        plan,
        source,
        store,
        before: () => {
          begun += 1
          throw new KitStop('the disk is full')
        },
      }),
    ).rejects.toThrow('the disk is full')
    // As many as were waiting already.
    expect(begun).toBeLessThanOrEqual(2)
    expect(store.files.size).toBe(0)
  })
  it('a stop leaves what is done, and a kit gone on with has the bytes of one that was not stopped', async () => {
    const stopping = new AbortController(),
      kit = { plan: { ...plan, kit: { ...plan.kit } }, source },
      store = new MemoryStore()
    let count = 0
    await expect(
      makeKit(
        {
          ...kit,
          store,
          before: () => {
            count += 1
            if (count > 2) {
              stopping.abort(new Error('stopped'))
              stopping.signal.throwIfAborted()
            }
          },
        },
        stopping.signal,
      ),
    ).rejects.toThrow('stopped')
    expect(store.done.size).toBe(2)
    const shares: number[] = []
    await makeKit({ ...kit, store, progress: ({ share }) => shares.push(share) })
    expect(shares[0]).toBeCloseTo(0.95 / 2, 3)
    expect(shares.at(-1)).toBe(1)
    expect(textOf(store)).toBe(textOf(await whole()))
  })
  it('a silent file is said', async () => {
    const silent = patchOf(
      [
        ['o', 'oscillator', { level: 0 }],
        ['out', 'output'],
      ],
      ['o.saw > out.in'],
    )
    const { report, store } = await kitMade(silent, { ...SHORT, align: { mode: 'notes' } })
    expect(report.warnings.join()).toMatch(/Test-60 is silent/)
    expect(store.sound('Test-60.wav').channels[0]!.length).toBe(480)
  })
  it('a patch the ear guard limits is said', async () => {
    const loud = patchOf(
      [
        ['o', 'oscillator'],
        ['out', 'output', { level: 12 }],
      ],
      ['o.saw > out.in * 8'],
    )
    expect((await kitMade(loud, SHORT)).report.warnings.join()).toMatch(/the ear guard limited Test-60/)
  })
})
