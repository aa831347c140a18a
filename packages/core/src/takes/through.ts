/** A tape through the engine: a module or a patch that it is played into, piece by piece. */
import type { Heard } from '../perform/playback.ts'
import { planRender } from '../render/render.ts'
import { type InputWindow, RENDER_STEP } from '../render/rendering.ts'
import { faultText } from '../patch/types.ts'
import type { StepPatch, Tools } from './step.ts'
import type { Tape } from './tape.ts'

/** What a step of a render may hear: the frames it goes over and as many again. */
const WINDOW = 2 * RENDER_STEP

class TapeWindow implements InputWindow {
  private readonly left = new Float32Array(WINDOW)
  private readonly right = new Float32Array(WINDOW)
  private start = 0
  /** Frames that are there. */
  private count = 0

  constructor(private readonly tape: Tape) {}

  /** Brings what is around the next step; what is there already is not read again. */
  async fill(from: number): Promise<void> {
    const gone = Math.min(this.count, from - this.start)
    for (const side of [this.left, this.right]) side.copyWithin(0, gone, this.count)
    this.count -= gone
    this.start = from
    const [left, right] = await this.tape.read(from + this.count, from + WINDOW)
    this.left.set(left!, this.count)
    this.right.set(right ?? left!, this.count)
    this.count = WINDOW
  }

  blockAt(frame: number): Heard {
    return { left: this.left, right: this.right, offset: frame - this.start }
  }
}

export interface Through {
  /** Frames that come out. */
  readonly frames: number
  /** The output port that is heard, before the guard; left out, the output. */
  readonly port?: string
}

/** Tells frames that are done; a tape of two channels. Throws what makes it unplayable. */
export async function* through(
  tape: Tape,
  { patch, assets }: StepPatch,
  tools: Tools,
  { frames, port }: Through,
): AsyncGenerator<number, Tape> {
  const { rate } = tape
  const input = new TapeWindow(tape)
  const planned = planRender(tools.kernels, patch, {
    seconds: frames / rate,
    rate,
    assets,
    input,
    ...(port === undefined ? {} : { taps: [port] }),
  })
  if (!planned.ok) throw new Error(planned.faults.map(faultText).join('; '))
  const spool = tools.spool(rate, 2)
  let pieces: (readonly [channels: readonly Float32Array[], frames: number])[] = []
  const take = (channels: readonly Float32Array[], count: number): void => {
    const left = channels[0]!.slice(0, count)
    pieces.push([[left, channels[1]?.slice(0, count) ?? left], count])
  }
  const steps = planned.value.run({
    output: (channels, count) => {
      if (port === undefined) take(channels, count)
    },
    tap: (_key, channels, count) => {
      take(channels, count)
    },
  })
  for (let at = 0; ; at += RENDER_STEP) {
    await input.fill(at)
    const step = steps.next()
    for (const [channels, count] of pieces) await spool.write(channels, count)
    pieces = []
    if (step.done) break
    yield step.value
  }
  return spool.end()
}
