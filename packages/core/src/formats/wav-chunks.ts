/** What a WAV file says of its sound besides: how samplers play it, and marks in it. Chunks that follow the samples. */

export interface WavMark {
  readonly frame: number
  readonly name: string
}

/** How a sampler is to play a sound. */
export interface WavPlaying {
  /** Note at which it sounds as recorded, 0…127, and by how many cents it is above that, 0 ≤ cents < 100. */
  readonly root: number
  readonly cents?: number
  /** Frames it goes round in, the end not included. */
  readonly loop?: { readonly start: number; readonly end: number }
  /** Keys and velocities it is for; all where left out. */
  readonly keys?: readonly [low: number, high: number]
  readonly velocities?: readonly [low: number, high: number]
  readonly marks?: readonly WavMark[]
}

const NANOSECONDS = 1e9

/** Little-endian numbers, one after the other. */
class Chunk {
  private readonly bytes: number[] = []
  constructor(private readonly id: string) {}

  u32(...values: readonly number[]): this {
    for (const value of values)
      this.bytes.push(value & 255, (value >>> 8) & 255, (value >>> 16) & 255, (value >>> 24) & 255)
    return this
  }
  /** Signed or not, a byte each. */
  u8(...values: readonly number[]): this {
    for (const value of values) this.bytes.push(value & 255)
    return this
  }
  word(text: string): this {
    return this.u8(...[...text].map((letter) => letter.charCodeAt(0)))
  }
  add(chunk: Chunk): this {
    for (const byte of chunk.whole()) this.bytes.push(byte)
    return this
  }
  /** With its head; a byte more where it would be odd. */
  whole(): number[] {
    const size = this.bytes.length
    const head = new Chunk('').word(this.id).u32(size)
    return [...head.bytes, ...this.bytes, ...(size % 2 === 1 ? [0] : [])]
  }
}

/** Root and loop, whose end is the last frame played (Microsoft's multimedia standards update, 1994). */
const samplerChunk = ({ root, cents = 0, loop }: WavPlaying, rate: number): Chunk => {
  const chunk = new Chunk('smpl')
    .u32(0, 0, Math.round(NANOSECONDS / rate), root)
    .u32(Math.round((cents / 100) * 2 ** 32), 0, 0, loop ? 1 : 0, 0)
  return loop ? chunk.u32(0, 0, loop.start, loop.end - 1, 0, 0) : chunk
}

/** The key it was recorded at, and for which keys and velocities it is. */
const instrumentChunk = ({ root, cents = 0, keys = [0, 127], velocities = [1, 127] }: WavPlaying): Chunk =>
  // Cents are counted from −50 to 50 here.
  new Chunk('inst').u8(
    cents > 50 ? root + 1 : root,
    Math.round(cents > 50 ? cents - 100 : cents),
    0,
    ...keys,
    ...velocities,
  )

const cueChunk = (marks: readonly WavMark[]): Chunk => {
  const chunk = new Chunk('cue ').u32(marks.length)
  marks.forEach(({ frame }, index) => {
    chunk
      .u32(index + 1, frame)
      .word('data')
      .u32(0, 0, frame)
  })
  return chunk
}

/** Names of the marks. */
const labelChunk = (marks: readonly WavMark[]): Chunk => {
  const list = new Chunk('LIST').word('adtl')
  marks.forEach(({ name }, index) => {
    const plain = [...name].map((letter) => (/[ -~]/.test(letter) ? letter : '?')).join('')
    list.add(new Chunk('labl').u32(index + 1).word(`${plain}\0`))
  })
  return list
}

/** Chunks `smpl`, `inst`, `cue ` and the names of its marks, to follow the samples. */
export const wavChunks = (playing: WavPlaying, rate: number): Uint8Array => {
  const { marks = [] } = playing
  const chunks = [samplerChunk(playing, rate), instrumentChunk(playing)]
  if (marks.length > 0) chunks.push(cueChunk(marks), labelChunk(marks))
  return Uint8Array.from(chunks.flatMap((chunk) => chunk.whole()))
}
