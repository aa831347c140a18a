import { describe, expect, it } from 'vitest'
import { MemoryNotebook } from '../kept/testing.ts'
import { type Output, SoundOutput } from './output.ts'

type Listed = Pick<MediaDeviceInfo, 'kind' | 'deviceId' | 'label'>
const BOX: Listed = { kind: 'audiooutput', deviceId: 'box', label: 'Blue box' }
const SYSTEM: Listed = { kind: 'audiooutput', deviceId: 'default', label: 'Default' }

/** Devices that are plugged in and out by hand, and contexts that note what they play through. */
class Desk {
  listed: Listed[] = [SYSTEM, BOX]
  isAllowed = true
  told: { outputs: readonly Output[]; id: string } | undefined
  gone = 0
  private changed: (() => void) | undefined
  readonly notebook: MemoryNotebook
  readonly output: SoundOutput
  constructor(notebook = new MemoryNotebook()) {
    this.notebook = notebook
    this.output = new SoundOutput({
      media: {
        enumerateDevices: async () => this.listed as MediaDeviceInfo[],
        getUserMedia: async () => {
          if (!this.isAllowed) throw new Error('NotAllowedError')
          return { getTracks: () => [] } as unknown as MediaStream
        },
        addEventListener: (_name: string, listener: unknown) => {
          this.changed = listener as () => void
        },
      },
      notebook,
      onOutputs: (outputs, id) => {
        this.told = { outputs, id }
      },
      onGone: () => {
        this.gone += 1
      },
    })
  }
  async plug(listed: Listed[]): Promise<void> {
    this.listed = listed
    this.changed?.()
    await new Promise((resolve) => setTimeout(resolve))
  }
  context() {
    const played: string[] = []
    return { sampleRate: 48000, played, setSinkId: async (id: string) => void played.push(id) }
  }
}

describe('the sound device', () => {
  it('is the system’s until one is chosen, and that one at later visits', async () => {
    const desk = new Desk(),
      context = desk.context()
    await desk.output.use(context)
    expect(context.played).toEqual([])
    expect(desk.told).toEqual({ outputs: [{ id: 'box', name: 'Blue box' }], id: '' })
    await desk.output.choose('box')
    expect(context.played).toEqual(['box'])
    const later = new Desk(desk.notebook),
      next = later.context()
    await later.output.look()
    await later.output.use(next)
    expect(next.played).toEqual(['box'])
    expect(later.told!.id).toBe('box')
  })

  it('is the system’s while the chosen one is unplugged, which is said once, and it comes back', async () => {
    const desk = new Desk(),
      context = desk.context()
    await desk.output.use(context)
    await desk.output.choose('box')
    await desk.plug([SYSTEM])
    await desk.plug([SYSTEM])
    expect(context.played).toEqual(['box', ''])
    expect(desk.gone).toBe(1)
    await desk.plug([SYSTEM, BOX])
    expect(context.played).toEqual(['box', '', 'box'])
  })

  it('stays as it was when the browser does not let it go, and is applied to a context made anew', async () => {
    const desk = new Desk(),
      context = desk.context()
    await desk.output.use(context)
    await desk.output.choose('box')
    const stubborn = {
      sampleRate: 48000,
      setSinkId: () => Promise.reject(new Error('no')),
    }
    await desk.output.use(stubborn)
    expect(desk.told!.id).toBe('')
    await expect(desk.output.choose('box')).rejects.toThrow('no')
    await expect(new Desk().output.use({ sampleRate: 48000 })).resolves.toBeUndefined()
  })

  it('has no name without permission, which is asked for in words', async () => {
    const desk = new Desk()
    desk.listed = [{ ...BOX, label: '', deviceId: '' }]
    await desk.output.look()
    expect(desk.told!.outputs).toEqual([])
    desk.isAllowed = false
    await expect(desk.output.ask()).rejects.toThrow('microphone')
    desk.isAllowed = true
    desk.listed = [BOX]
    await desk.output.ask()
    expect(desk.told!.outputs).toHaveLength(1)
  })
})
