/** The device that sound goes to: the system's, or one that was chosen here and is remembered. */
/** A sound device as the browser names it; the system's has no id. */
export interface Output {
  readonly id: string
  readonly name: string
}

/** What a context can do that its type does not know of yet. */
interface Sink extends Pick<AudioContext, 'sampleRate'> {
  setSinkId?: (id: string) => Promise<void>
}

export interface OutputParts {
  readonly media: Pick<MediaDevices, 'enumerateDevices' | 'getUserMedia' | 'addEventListener'> | undefined
  /** Where the choice is remembered. */
  readonly notebook: { read(key: string): string | null; write(key: string, text: string): boolean }
  /** Told what there is and which of it plays. */
  readonly onOutputs: (outputs: readonly Output[], id: string) => void
  /** Told when the chosen device is gone. */
  readonly onGone: () => void
}

const KEY = 'ypsilon-output'

export class SoundOutput {
  private context: Sink | undefined
  private outputs: readonly Output[] = []
  private wanted: string
  private playing = ''

  constructor(private readonly parts: OutputParts) {
    this.wanted = parts.notebook.read(KEY) ?? ''
    parts.media?.addEventListener('devicechange', () => void this.look())
  }

  /** A context that sound goes through from now on. */
  async use(context: Sink): Promise<void> {
    this.context = context
    this.playing = ''
    await this.look()
  }

  /** Reads which devices there are. Without permission the browser names none. */
  async look(): Promise<void> {
    const all = (await this.parts.media?.enumerateDevices().catch(() => [])) ?? []
    this.outputs = all
      .filter(({ kind, deviceId, label }) => kind === 'audiooutput' && label !== '' && deviceId !== 'default')
      .map(({ deviceId: id, label: name }) => ({ id, name }))
    const isThere = this.outputs.some(({ id }) => id === this.wanted)
    if (this.playing !== '' && !isThere) this.parts.onGone()
    await this.play(isThere ? this.wanted : '').catch(() => undefined)
    this.parts.onOutputs(this.outputs, this.playing)
  }

  /** Asks the browser to name the devices: it does for a page that may use the audio input. */
  async ask(): Promise<void> {
    const stream = await this.parts.media?.getUserMedia({ audio: true }).catch(() => undefined)
    if (!stream)
      throw new Error(
        'The browser names no sound devices without the microphone being allowed. Allow it for this page and try again.',
      )
    for (const track of stream.getTracks()) track.stop()
    await this.look()
  }

  /** Plays through a device from now on and at later visits; rejects when the browser does not let it. */
  async choose(id: string): Promise<void> {
    await this.play(id)
    this.wanted = id
    this.parts.notebook.write(KEY, id)
    this.parts.onOutputs(this.outputs, this.playing)
  }

  private async play(id: string): Promise<void> {
    if (this.context && id !== this.playing) {
      if (!this.context.setSinkId) throw new Error('This browser plays through the system’s device only.')
      await this.context.setSinkId(id)
    }
    this.playing = id
  }
}
