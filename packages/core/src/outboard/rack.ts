/**
 * Where devices run: each outboard module leaves its blocks in a mailbox in the engine's memory (kernels/abi.ts) and has
 * the device called when one is full. Devices see plain arrays of their own, never that memory.
 */
import {
  MAIL_CONTROLS,
  MAIL_HANDLE,
  MAIL_IN,
  MAIL_NOTE_BYTES,
  MAIL_NOTE_COUNT,
  MAIL_NOTES,
  MAIL_OUT,
  MAIL_PITCHES,
  MAIL_SLEPT,
  MAIL_VALUES,
  MOST_MAIL_NOTES,
} from '../kernels/abi.ts'
import { DEVICE_FRAMES, type Device, type DeviceNote, type DeviceProcessor, valueAt } from './device.ts'
import { DEVICES } from './devices.ts'
import { MAKERS } from './processors.ts'

const VOICES = 16

interface Slot {
  readonly device: Device
  readonly processor: DeviceProcessor
  used: number
}

/** Slots that nothing has used for so many blocks are given up when another one is made: ten minutes or so. */
const FORGOTTEN = 220_000

export class Rack {
  private readonly slots = new Map<number, Slot>()
  private last = 0
  private blocks = 0
  private floats = new Float32Array(0)
  private words = new Uint32Array(0)
  private readonly block = {
    left: new Float32Array(DEVICE_FRAMES),
    right: new Float32Array(DEVICE_FRAMES),
    outLeft: new Float32Array(DEVICE_FRAMES),
    outRight: new Float32Array(DEVICE_FRAMES),
    values: new Float64Array(64),
    notes: Array.from({ length: MOST_MAIL_NOTES }, (): DeviceNote => ({
      frame: 0,
      voice: 0,
      on: false,
      pitch: 0,
      velocity: 0,
    })),
    noteCount: 0,
    pitches: new Float32Array(VOICES),
  }

  constructor(
    private readonly memory: () => ArrayBuffer,
    private readonly sampleRate: number,
  ) {}

  /** The device of a mailbox; made at its first block, and anew when the mailbox was cleared. */
  private slotOf(mail: number, number: number): Slot | undefined {
    const device = DEVICES[number]
    if (!device) return undefined
    const known = this.slots.get(this.words[(mail + MAIL_HANDLE) >> 2]!)
    if (known?.device === device) return known
    for (const [handle, slot] of this.slots)
      if (this.blocks - slot.used > FORGOTTEN) this.slots.delete(handle)
    this.last += 1
    const made = { device, processor: MAKERS.get(device.id)!(this.sampleRate), used: this.blocks }
    this.slots.set(this.last, made)
    this.words[(mail + MAIL_HANDLE) >> 2] = this.last
    return made
  }

  /** A block is full: `table` has the device's number and which of its parameters each control sets. 1 where it is silent. */
  readonly run = (table: number, mail: number): number => {
    const buffer = this.memory()
    if (this.floats.buffer !== buffer) {
      this.floats = new Float32Array(buffer)
      this.words = new Uint32Array(buffer)
    }
    this.blocks += 1
    const { floats, words, block } = this,
      out = (mail + MAIL_OUT) >> 2
    const slot = this.slotOf(mail, words[table >> 2]!)
    if (!slot) {
      floats.fill(0, out, out + 2 * DEVICE_FRAMES)
      return 1
    }
    slot.used = this.blocks
    const { processor, device } = slot,
      slept = words[(mail + MAIL_SLEPT) >> 2]!,
      from = (mail + MAIL_IN) >> 2
    if (slept > 0) processor.skip(slept)
    for (let n = 0; n < DEVICE_FRAMES; n += 1) {
      block.left[n] = floats[from + n]!
      block.right[n] = floats[from + DEVICE_FRAMES + n]!
    }
    this.takeValues(device, table, mail)
    this.takeNotes(mail)
    const isQuiet = processor.process(block)
    for (let n = 0; n < DEVICE_FRAMES; n += 1) {
      floats[out + n] = sane(block.outLeft[n]!)
      floats[out + DEVICE_FRAMES + n] = sane(block.outRight[n]!)
    }
    return isQuiet ? 1 : 0
  }

  /** Every parameter in the middle, but for those that a control sets. */
  private takeValues({ parameters }: Device, table: number, mail: number): void {
    const { values } = this.block
    for (let n = 0; n < parameters.length; n += 1) values[n] = valueAt(parameters[n]!, 0.5)
    for (let n = 0; n < MAIL_CONTROLS; n += 1) {
      const to = this.words[(table >> 2) + 1 + n]!
      if (to < parameters.length)
        values[to] = valueAt(parameters[to]!, this.floats[((mail + MAIL_VALUES) >> 2) + n]!)
    }
  }

  private takeNotes(mail: number): void {
    const { block, words, floats } = this
    block.noteCount = Math.min(words[(mail + MAIL_NOTE_COUNT) >> 2]!, MOST_MAIL_NOTES)
    for (let n = 0; n < block.noteCount; n += 1) {
      const at = (mail + MAIL_NOTES + n * MAIL_NOTE_BYTES) >> 2,
        note = block.notes[n]!
      note.frame = words[at]!
      note.voice = words[at + 1]! & 0xff
      note.on = (words[at + 1]! & 0x100) !== 0
      note.pitch = floats[at + 2]!
      note.velocity = floats[at + 3]!
    }
    for (let n = 0; n < VOICES; n += 1) block.pitches[n] = floats[((mail + MAIL_PITCHES) >> 2) + n]!
  }
}

/** What a device that is not ours gives may be anything. */
const sane = (x: number): number => (x > -64 && x < 64 ? x : x >= 64 ? 64 : x <= -64 ? -64 : 0)
