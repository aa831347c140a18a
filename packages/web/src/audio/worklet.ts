import { Runtime } from '@ypsilon/core/engine/runtime.ts'
import {
  type FromWorklet,
  type Numbered,
  type PageWatch,
  RING,
  ringLength,
  SUMMARY,
  THIN_STEP,
  type ToWorklet,
  watchFloats,
} from './messages.ts'
import { Tape } from './tape.ts'

const BLOCK = 128
/** Blocks between reports: as many frames as a ring holds, so that probes miss none. */
const REPORT_BLOCKS = 4
const LOAD_BLOCKS = 188

interface Options {
  readonly processorOptions: { readonly kernels: ArrayBuffer }
}

class EngineProcessor extends AudioWorkletProcessor {
  private readonly runtime: Runtime
  private readonly silence = new Float32Array(BLOCK)
  /** What the inputs bring; one object for all blocks. */
  private readonly heard: { left: Float32Array; right: Float32Array; readonly offset: number } = {
    left: this.silence,
    right: this.silence,
    offset: 0,
  }
  private watches: readonly PageWatch[] = []
  private watchSerial = 0
  /** What left the engine last, as rings like those of watches; undefined while nobody looks. */
  private outside: { readonly left: Float32Array; readonly right: Float32Array } | undefined
  private readonly outputRings = { left: new Float32Array(RING), right: new Float32Array(RING) }
  private readonly buffers: ArrayBuffer[] = []
  private pending: { serial: number; swaps: number }[] = []
  private blocks = 0
  private peakLeft = 0
  private peakRight = 0
  private busy = 0
  private load = -1
  private late = 0
  private tape: Tape | undefined
  /** Number of the last message taken. */
  private taken = 0

  constructor(options: Options) {
    super()
    this.runtime = new Runtime(new WebAssembly.Module(options.processorOptions.kernels), sampleRate)
    this.runtime.openOutput()
    // The first blocks after a start are slow: run some before anything is heard.
    const left = new Float32Array(BLOCK),
      right = new Float32Array(BLOCK)
    for (let block = 0; block < 8; block += 1) this.runtime.process(left, right, 0, BLOCK)
    this.port.onmessage = ({ data }: MessageEvent<Numbered>) => {
      this.receive(data.message)
      this.taken = data.n
    }
  }

  private post(message: FromWorklet, transfer: Transferable[] = []): void {
    this.port.postMessage(message, transfer)
  }

  private receive(message: ToWorklet): void {
    switch (message.type) {
      case 'plan':
        this.pending.push({ serial: message.serial, swaps: this.runtime.swaps + this.pending.length + 1 })
        this.runtime.send(message.delta)
        break
      case 'events':
        for (const event of message.events) this.runtime.send({ event })
        break
      case 'watch':
        this.runtime.send({
          list: {
            watches: message.watches,
            words: message.words,
            memoryBytes: message.memoryBytes,
            taken: () => {
              this.watches = message.watches
              this.outside = message.hasOutput ? this.outputRings : undefined
              this.watchSerial = message.serial
            },
          },
        })
        break
      case 'guard':
        this.runtime.guardActive = message.active
        break
      case 'open':
        this.runtime.openOutput()
        break
      case 'record':
        this.record(message.on)
        break
      case 'recycle':
        if (this.buffers.length < 4) this.buffers.push(message.buffer)
        break
    }
  }

  private record(on: boolean): void {
    if (!on) this.tape?.stop()
    else
      this.tape = new Tape(sampleRate, ({ left, right, isLast }) => {
        this.post({ type: 'recorded', left, right, isLast }, [left.buffer, right.buffer])
      })
  }

  process(inputs: Float32Array[][], outputs: Float32Array[][]): boolean {
    const [left, right] = outputs[0] as [Float32Array, Float32Array]
    const input = inputs[0]
    const started = Date.now()
    const inLeft = input?.[0] ?? this.silence
    this.heard.left = inLeft
    this.heard.right = input?.[1] ?? inLeft
    this.runtime.process(left, right, 0, left.length, this.heard)
    const spent = Date.now() - started
    this.busy += spent
    // The clock counts whole milliseconds: one more than the block lasts is certainly too long.
    if (spent > (left.length * 1000) / sampleRate + 1) this.late += 1
    for (let f = 0; f < left.length; f += 1) {
      this.peakLeft = Math.max(this.peakLeft, Math.abs(left[f]!))
      this.peakRight = Math.max(this.peakRight, Math.abs(right[f]!))
    }
    if (this.tape && !this.tape.take(left, right)) this.tape = undefined
    this.outside?.left.set(left, (this.runtime.time - left.length) % RING)
    this.outside?.right.set(right, (this.runtime.time - left.length) % RING)
    const first = this.pending[0]
    if (first && this.runtime.swaps >= first.swaps) {
      this.pending.shift()
      this.post({ type: 'swapped', serial: first.serial })
    }
    this.blocks += 1
    if (this.blocks % LOAD_BLOCKS === 0) {
      this.load = this.busy / ((LOAD_BLOCKS * BLOCK * 1000) / sampleRate)
      this.busy = 0
    }
    if (this.blocks % REPORT_BLOCKS === 0) this.report()
    return true
  }

  private report(): void {
    let count = 0
    for (const watch of this.watches) count += watchFloats(watch)
    const { outside } = this
    if (outside) count += 2 * RING + SUMMARY
    const bytes = Math.max(4, count * 4)
    let buffer = this.buffers.pop()
    if (!buffer || buffer.byteLength < bytes) buffer = new ArrayBuffer(bytes)
    const floats = new Float32Array(buffer)
    let at = 0
    for (const watch of this.watches) {
      const { ring, isThin } = watch,
        length = ringLength(watch)
      if (isThin) this.runtime.readThinned(ring, floats, at, length, THIN_STEP)
      else this.runtime.readInto(ring, floats, at, length)
      this.runtime.readInto(ring + RING * 4, floats, at + length, SUMMARY)
      at += length + SUMMARY
      // The next summary starts from where this one ended.
      this.runtime.resetWatch(ring)
      if (watch.right !== undefined) {
        this.runtime.readInto(watch.right, floats, at, RING)
        at += RING
      }
    }
    if (outside) {
      floats.set(outside.left, at)
      floats.fill(0, at + RING, at + RING + SUMMARY)
      floats.set(outside.right, at + RING + SUMMARY)
    }
    const { runtime } = this
    this.post(
      {
        type: 'report',
        taken: this.taken,
        serial: this.watchSerial,
        time: runtime.time,
        beats: runtime.beats,
        running: runtime.running,
        peakLeft: this.peakLeft,
        peakRight: this.peakRight,
        limited: runtime.limitedFrames() > 0,
        stopped: runtime.isStopped(),
        silenced: runtime.silenced,
        resets: runtime.resets,
        load: this.load,
        late: this.late,
        buffer,
        count: this.watches.length,
      },
      [buffer],
    )
    this.peakLeft = 0
    this.peakRight = 0
  }
}

registerProcessor('ypsilon', EngineProcessor as unknown as AudioWorkletProcessorConstructor)
