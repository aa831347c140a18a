/* eslint max-lines: ["error", 500] -- one document, kept and broken off in every way */
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  continues,
  dropped,
  edit,
  emptyPatch,
  EMPTY_HISTORY,
  type History,
  type Moved,
  type Patch,
  record,
  redo,
  undo,
} from '@ypsilon/core'
import { Documents } from './documents.ts'
import { Keeper, type Saved } from './keeper.ts'
import { MOST_MIRRORED } from './mirror.ts'
import type { KeptStep, PatchBody } from './records.ts'
import { HandClock, MemoryBox, MemoryNotebook, settle } from './testing.ts'

/** A document at work over a store in memory, as the bench has it. */
class Bench {
  readonly box: MemoryBox
  readonly notebook: MemoryNotebook
  readonly clock = new HandClock()
  readonly audio = new MemoryBox()
  readonly documents: Documents
  patch: Patch
  history: History
  saved: Saved[] = []
  isLost = false
  keeper: Keeper

  private constructor(box: MemoryBox, notebook: MemoryNotebook, from?: PatchBody) {
    this.box = box
    this.notebook = notebook
    this.documents = new Documents({
      database: { documents: box, audio: this.audio },
      notebook,
      clock: this.clock,
    })
    const body = from ?? this.documents.bodyOf({ ...emptyPatch('Buoy'), cables: [], modules: [] })
    this.patch = body.patch
    this.history = EMPTY_HISTORY
    this.keeper = this.keep({ head: body.head, steps: 0, ...(from ? {} : { body }) })
  }

  private keep(kept: ConstructorParameters<typeof Keeper>[1]): Keeper {
    return new Keeper(
      {
        box: this.box,
        notebook: this.notebook,
        clock: this.clock,
        onSaved: (saved) => this.saved.push(saved),
        onLost: () => {
          this.isLost = true
        },
        whole: () => ({ patch: this.patch, history: this.history }),
        onListed: () => undefined,
      },
      kept,
    )
  }

  static fresh(): Bench {
    const bench = new Bench(new MemoryBox(), new MemoryNotebook())
    bench.keeper.begin()
    return bench
  }

  /** The next visit: only what was written is there. */
  static async after(bench: Bench): Promise<Bench> {
    const box = new MemoryBox(),
      notebook = new MemoryNotebook()
    for (const [key, text] of bench.box.values) box.values.set(key, text)
    for (const [key, text] of bench.notebook.texts) notebook.texts.set(key, text)
    const next = new Bench(box, notebook, {} as PatchBody & { head: never })
    await next.documents.recover()
    const read = await next.documents.read(bench.keeper.id)
    if (!read.ok) throw new Error(read.message)
    next.patch = read.patch
    next.history = read.history
    next.keeper = next.keep({
      head: read.head,
      steps: read.steps,
      from: read.from,
      unwritten: read.unwritten,
    })
    next.keeper.begin()
    return next
  }

  private step(step: KeptStep, replacesLast = false): void {
    this.keeper.step(step, replacesLast)
  }
  change(name: string, gesture?: string): void {
    const result = edit(
      this.patch,
      name,
      (draft) => {
        if (gesture === undefined) draft.modules.push({ id: name, type: 'oscillator', x: 0, y: 0 } as never)
        else {
          draft.tempo = 40 + name.length
          Object.assign(draft, { description: name })
        }
      },
      gesture === undefined ? {} : { gesture },
    )
    if (!result.ok) throw new Error(result.faults[0]!.message)
    const grows = continues(this.history, result.change)
    this.patch = result.patch
    this.history = record(this.history, result.change)
    this.step({ do: 'change', change: this.history.past.at(-1)! }, grows)
  }
  go(word: 'undo' | 'redo' | 'drop', move: (patch: Patch, history: History) => Moved | undefined): void {
    const moved = move(this.patch, this.history)
    if (!moved) return
    this.patch = moved.patch
    this.history = moved.history
    this.step({ do: word })
  }
}

const plain = (value: unknown): unknown => JSON.parse(JSON.stringify(value))

type Act = 'add' | 'drag' | 'grab' | 'undo' | 'redo' | 'drop' | 'settle' | 'idle' | 'fail' | 'heal' | 'reload'
const ACTS: readonly Act[] = [
  'add',
  'add',
  'drag',
  'drag',
  'drag',
  'grab',
  'undo',
  'redo',
  'drop',
  'settle',
  'idle',
  'fail',
  'heal',
  'reload',
]

describe('a kept document', () => {
  it('is the same after a crash at any moment, whatever was done, with its undo history', async () => {
    await fc.assert(
      fc.asyncProperty(fc.array(fc.constantFrom(...ACTS), { maxLength: 40 }), async (acts) => {
        let bench = Bench.fresh(),
          count = 0,
          gesture = 0
        for (const act of acts) {
          count += 1
          switch (act) {
            case 'add':
              bench.change(`m${count}`)
              break
            case 'drag':
              bench.change('x'.repeat(1 + (count % 20)), `drag-${gesture}`)
              break
            case 'grab':
              gesture += 1
              break
            case 'undo':
              bench.go('undo', undo)
              break
            case 'redo':
              bench.go('redo', redo)
              break
            case 'drop':
              bench.go('drop', dropped)
              break
            case 'settle':
              await settle()
              break
            case 'idle':
              await settle()
              await bench.clock.go(2500)
              break
            case 'fail':
              bench.box.failure = new DOMException('full', 'QuotaExceededError') as unknown as Error
              break
            case 'heal':
              bench.box.failure = undefined
              await bench.clock.go(5000)
              break
            case 'reload': {
              const next = await Bench.after(bench)
              expect(plain([next.patch, next.history])).toEqual(plain([bench.patch, bench.history]))
              bench = next
            }
          }
        }
        const next = await Bench.after(bench)
        expect(plain([next.patch, next.history])).toEqual(plain([bench.patch, bench.history]))
      }),
      { numRuns: 400, endOnFailure: true },
    )
  }, 60_000)

  it('leaves one whole and no steps behind when nobody works', async () => {
    const bench = Bench.fresh()
    for (let n = 0; n < 30; n += 1) bench.change(`m${n}`)
    await settle()
    expect([...bench.box.values.keys()].filter((key) => key.startsWith('step/')).length).toBe(30)
    await bench.clock.go(2500)
    await settle()
    expect([...bench.box.values.keys()].sort()).toEqual([
      `body/${bench.keeper.id}`,
      `head/${bench.keeper.id}`,
    ])
    expect([...bench.notebook.texts.keys()]).toEqual([])
  })

  it('that grows by a drag is in the notebook with every move, and in the store a few times a second', async () => {
    const bench = Bench.fresh()
    await settle()
    let writes = 0
    bench.box.onWrite = () => (writes += 1)
    for (let n = 1; n <= 60; n += 1) {
      bench.change('y'.repeat(n), 'turn')
      const crashed = await Bench.after(bench)
      expect(plain(crashed.patch)).toEqual(plain(bench.patch))
      await bench.clock.go(16)
    }
    expect(writes).toBeGreaterThan(8)
    expect(writes).toBeLessThan(20)
    // The last move is not left to the next one.
    await bench.clock.go(80)
    expect([...bench.box.values.values()].some((text) => text.includes('y'.repeat(60)))).toBe(true)
    expect(bench.saved.at(-1)).toMatchObject({ kind: 'kept' })
    // What the notebook has no room for goes to the store at once.
    bench.notebook.isFull = true
    writes = 0
    for (let n = 61; n <= 70; n += 1) {
      bench.change('y'.repeat(n), 'turn')
      await settle()
    }
    expect(writes).toBeGreaterThanOrEqual(10)
  })

  it('says keeping until the store has what the notebook has no room for', async () => {
    const bench = Bench.fresh()
    await settle()
    bench.notebook.isFull = true
    bench.change('m1')
    expect(bench.saved.at(-1)).toEqual({ kind: 'keeping', isSafe: false })
    await settle()
    expect(bench.saved.at(-1)!.kind).toBe('kept')
    expect(MOST_MIRRORED).toBe(256 * 1024)
  })

  it('says why it is not kept until it is, and loses nothing meanwhile', async () => {
    const bench = Bench.fresh()
    await settle()
    bench.box.failure = new DOMException('full', 'QuotaExceededError') as unknown as Error
    bench.change('m1')
    await settle()
    expect(bench.saved.at(-1)).toEqual({ kind: 'failed', message: 'no room left in the browser' })
    bench.change('m2')
    bench.box.failure = undefined
    await bench.clock.go(4000)
    await settle()
    expect(bench.saved.at(-1)!.kind).toBe('kept')
    expect((await Bench.after(bench)).patch.modules).toHaveLength(2)
  })

  it('that another tab took over is written by it alone', async () => {
    const bench = Bench.fresh()
    bench.change('m1')
    await settle()
    await bench.documents.takeOver(bench.keeper.id)
    bench.change('m2')
    await settle()
    await bench.clock.go(2500)
    await settle()
    expect(bench.isLost).toBe(true)
    // What it did since is not written, and known to be missing: it becomes a copy.
    expect(bench.keeper.hasMore).toBe(true)
    expect([...bench.box.values.keys()].filter((key) => key.startsWith('step/'))).toEqual([])
    const read = await bench.documents.read(bench.keeper.id)
    expect(read.ok && read.patch.modules.map(({ id }) => id)).toEqual(['m1'])
    expect(read.ok && read.head.revision).toBe(2)
  })

  it('keeps its versions, of which those kept by themselves make room', async () => {
    const bench = Bench.fresh()
    const { id } = bench.keeper
    await bench.documents.keepVersion(id, 'Mine', bench.patch, false)
    for (let n = 0; n < 30; n += 1) {
      await bench.clock.go(1)
      await bench.documents.keepVersion(id, `${n}`, bench.patch, true)
    }
    const versions = await bench.documents.versions(id)
    expect(versions).toHaveLength(21)
    expect(versions[0]!.name).toBe('29')
    expect(versions.at(-1)!.name).toBe('Mine')
  })

  it('put aside comes back whole within 30 days, and goes after them with all it had', async () => {
    const bench = Bench.fresh()
    const { id } = bench.keeper
    bench.change('m1')
    await settle()
    await bench.documents.keepVersion(id, 'Mine', bench.patch, false)
    bench.keeper.end()
    await bench.documents.putAside(id)
    await bench.documents.tidy()
    expect((await bench.documents.heads())[0]!.putAside).toBeDefined()
    await bench.documents.takeBack(id)
    expect((await bench.documents.heads())[0]!.putAside).toBeUndefined()
    await bench.documents.putAside(id)
    await bench.clock.go(31 * 24 * 3600 * 1000)
    await bench.documents.tidy()
    expect([...bench.box.values.keys()]).toEqual([])
  })

  it('keeps audio as long as the whole, a step, a version or the notebook names it', async () => {
    const bench = Bench.fresh()
    const { id } = bench.keeper
    const hashes = ['whole', 'step', 'version', 'notebook', 'nobody'].map((_, n) => `${n}`.repeat(64))
    for (const hash of hashes) await bench.audio.set(hash, { at: bench.clock.now() })
    const naming = (n: number): unknown => ({ assets: { quay: { kind: 'audio', hash: hashes[n] } } })
    bench.keeper.end()
    await settle()
    await bench.box.set('body/other', { patch: naming(0) })
    await bench.box.set('step/other/000001', { step: naming(1) })
    await bench.documents.keepVersion(id, 'Mine', naming(2) as Patch, false)
    bench.notebook.write('ypsilon-steps/other/1', JSON.stringify({ steps: [naming(3)] }))
    const left = async (): Promise<string[]> => (await bench.audio.keys()).sort()
    await bench.documents.tidy()
    expect(await left(), 'fresh audio may be on its way').toEqual(hashes)
    await bench.clock.go(25 * 3600 * 1000)
    await bench.documents.tidy()
    expect(await left()).toEqual(hashes.slice(0, 4))
    // Looked for once a day: the whole store is read for it.
    await bench.box.remove('body/other')
    await bench.clock.go(3600 * 1000)
    await bench.documents.tidy()
    expect(await left()).toEqual(hashes.slice(0, 4))
    await bench.clock.go(24 * 3600 * 1000)
    await bench.documents.tidy()
    expect(await left()).toEqual(hashes.slice(1, 4))
  })

  it('made only to be put aside comes back to stay, also when it is worked on', async () => {
    const bench = Bench.fresh()
    const id = await bench.documents.make(bench.patch)
    await bench.documents.putAside(id)
    await bench.documents.takeBack(id)
    const read = await bench.documents.read(id)
    expect(read.ok && read.head.putAside).toBeUndefined()
  })

  it('that an earlier page had put aside is so still, and comes back to stay', async () => {
    const bench = Bench.fresh(),
      old = new MemoryBox()
    old.values.set('aside-1', JSON.stringify({ patch: emptyPatch('Old'), at: 5 }))
    old.values.set('bench-1', JSON.stringify({ patch: emptyPatch('Bench'), at: 7 }))
    await bench.documents.takeOldBenches(old)
    expect(old.values.size).toBe(0)
    const heads = await bench.documents.heads()
    const aside = heads.find(({ name }) => name === 'Old')!
    expect(aside.putAside).toBeDefined()
    expect(heads.find(({ name }) => name === 'Bench')!.putAside).toBeUndefined()
    await bench.documents.takeBack(aside.id)
    const read = await bench.documents.read(aside.id)
    expect(read.ok && read.head.putAside).toBeUndefined()
  })

  it('of an older format ends its undo history in a version of it', async () => {
    const bench = Bench.fresh()
    bench.change('m1')
    await settle()
    await bench.clock.go(2500)
    await settle()
    const key = `body/${bench.keeper.id}`
    bench.box.values.set(key, JSON.stringify({ ...JSON.parse(bench.box.values.get(key)!), format: 0 }))
    const read = await bench.documents.read(bench.keeper.id)
    expect(read.ok && read.history).toEqual(EMPTY_HISTORY)
    expect(read.ok && read.older?.modules).toHaveLength(1)
  })
})
