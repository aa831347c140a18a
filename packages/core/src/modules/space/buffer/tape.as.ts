// What a buffer records on, one for each voice: samples in pages that stand twice, so that a layer can be taken back; where
// the head was in the last frames, and what was overwritten in them, so that readers see nothing but what was there
// before their own frame, however the block is cut.
import { cubicBetween } from "../../../kernels/fours.as";

export const EMPTY: u32 = 0,
  FIRST: u32 = 1,
  LOOPED: u32 = 2;
/** Samples of a page, as a power of two. */
const PAGE_BITS: u32 = 10,
  PAGE: u32 = 1024;
/** Frames of heads that are kept, and samples that were overwritten. */
const HEADS: u32 = 256,
  LOG: u32 = 1024;
const HEAD_ENTRY: usize = 24,
  LOG_ENTRY: usize = 16;
const TAPE_BYTES: usize = 128;
const OTHER: u32 = 0x80000000,
  LAYER: u32 = 0x7fffffff;


@unmanaged
export class Tape {
  phase: u32;
  /** Frames of the loop; while it is recorded for the first time, as many as there are. */
  length: u32;
  /** Length that undo brings back, after a clear or in place of the first recording. */
  saved: u32;
  /** Frames there is room for, and sides. */
  room: u32;
  sides: u32;
  /** The layer that is recorded, or was last: 0 is the first recording. */
  layer: u32;
  /** Frames left of the fade after a layer was taken back or brought again, and of how many. */
  turning: u32;
  turningFrames: u32;
  logCount: u32;
  lastWritten: u32;
  hasWritten: u32;


  @inline get address(): usize {
    return changetype<usize>(this);
  }


  @inline get heads(): usize {
    return this.address + TAPE_BYTES;
  }


  @inline get log(): usize {
    return this.heads + HEADS * HEAD_ENTRY;
  }


  @inline get pages(): usize {
    return this.log + LOG * LOG_ENTRY;
  }


  @inline get samples(): usize {
    return this.pages + ((<usize>(this.room >> PAGE_BITS)) << 2);
  }

  /** Where a sample of a side stands, in the copy that counts, or in the other one. */
  @inline place(at: u32, side: u32, other: u32): usize {
    const page = load<u32>(this.pages + ((<usize>(at >> PAGE_BITS)) << 2)),
      copy = (page & OTHER ? 1 : 0) ^ other;
    return this.samples + ((<usize>((copy * this.sides + side) * this.room + at)) << 2);
  }
  /** Was a page changed by the last layer? */
  @inline isTouched(at: u32): bool {
    const layer = load<u32>(this.pages + ((<usize>(at >> PAGE_BITS)) << 2)) & LAYER;
    return this.layer > 0 && layer == this.layer;
  }

  /** A sample of the loop, which goes round; nothing beyond what is recorded for the first time. */
  at(index: i32, side: u32, frame: u32): f32 {
    const length = <i32>this.length;
    if (length == 0 || this.phase == EMPTY) return 0;
    let i = index;
    if (i < 0 || i >= length) {
      if (this.phase == FIRST) return 0;
      i %= length;
      if (i < 0) i += length;
    }
    // What was written in this frame or after it is not there yet.
    if (this.hasWritten && <i32>(this.lastWritten - frame) >= 0) {
      const before = this.before(<u32>i, frame);
      if (before) return load<f32>(before + ((<usize>side) << 2));
    }
    const y = load<f32>(this.place(<u32>i, side, 0));
    if (this.turning == 0 || !this.isTouched(<u32>i)) return y;
    const gone = load<f32>(this.place(<u32>i, side, 1));
    return y + (gone - y) * (<f32>this.turning / <f32>this.turningFrames);
  }

  /** Where the log has what stood at a place before a frame; 0 where nothing was written there since. */
  private before(at: u32, frame: u32): usize {
    let found: usize = 0;
    for (let n: u32 = 1, count = min(this.logCount, LOG); n <= count; ++n) {
      const entry = this.log + <usize>((this.logCount - n) & (LOG - 1)) * LOG_ENTRY;
      if (<i32>(load<u32>(entry) - frame) < 0) break;
      if (load<u32>(entry, 4) == at) found = entry + 8;
    }
    return found;
  }

  /** Writes a side's sample; the first side of a place notes what stood there. */
  write(at: u32, left: f32, right: f32, frame: u32): void {
    this.touch(at);
    const entry = this.log + <usize>(this.logCount & (LOG - 1)) * LOG_ENTRY,
      first = this.place(at, 0, 0);
    store<u32>(entry, frame);
    store<u32>(entry, at, 4);
    store<f32>(entry, load<f32>(first), 8);
    store<f32>(first, left);
    if (this.sides > 1) {
      const second = this.place(at, 1, 0);
      store<f32>(entry, load<f32>(second), 12);
      store<f32>(second, right);
    }
    this.logCount += 1;
    if (this.logCount == 0x40000000) this.logCount = LOG;
    this.lastWritten = frame;
    this.hasWritten = 1;
  }

  /** Before a layer changes a page for the first time it goes over to the copy: the old one is what undo brings back. */
  private touch(at: u32): void {
    const page = at >> PAGE_BITS,
      entry = this.pages + ((<usize>page) << 2),
      now = load<u32>(entry);
    if (this.layer == 0 || (now & LAYER) == this.layer) return;
    const start = page << PAGE_BITS;
    for (let side: u32 = 0; side < this.sides; ++side)
      memory.copy(this.place(start, side, 1), this.place(start, side, 0), (<usize>PAGE) << 2);
    store<u32>(entry, ((now & OTHER) ^ OTHER) | this.layer);
  }

  /** Takes the last layer back, or brings it again. */
  turn(frames: u32): void {
    for (let page: u32 = 0, pages = this.room >> PAGE_BITS; page < pages; ++page) {
      const entry = this.pages + ((<usize>page) << 2),
        now = load<u32>(entry);
      if ((now & LAYER) == this.layer) store<u32>(entry, now ^ OTHER);
    }
    this.turningFrames = frames;
    this.turning = frames;
  }

  /** Notes where the head was at a frame and where it goes from there. */
  noteHead(frame: u32, head: f64, next: f64): void {
    const entry = this.heads + <usize>(frame & (HEADS - 1)) * HEAD_ENTRY;
    store<u32>(entry, frame);
    store<f64>(entry, head, 8);
    store<f64>(entry, next, 16);
  }
  /** Where the head stands at a frame: as noted, else where it went from the frame before. */
  headAt(frame: u32): f64 {
    const entry = this.heads + <usize>(frame & (HEADS - 1)) * HEAD_ENTRY;
    if (load<u32>(entry) == frame) return load<f64>(entry, 8);
    return load<f64>(this.heads + <usize>((frame - 1) & (HEADS - 1)) * HEAD_ENTRY, 16);
  }
}

/** In the order of the modules' choices. */
const NONE: i32 = 0,
  LINEAR: i32 = 1,
  COSINE: i32 = 2,
  CUBIC: i32 = 3;

/** A place between samples. On a sample it is that sample; with `none` it is the one before. */
export function readTape(tape: Tape, place: f64, side: u32, kind: i32, frame: u32): f32 {
  const whole = floor(place),
    f = <f32>(place - whole),
    n = <i32>whole,
    x1 = tape.at(n, side, frame);
  if (f == 0 || kind == NONE) return x1;
  const x2 = tape.at(n + 1, side, frame);
  if (kind == LINEAR) return x1 + f * (x2 - x1);
  if (kind == COSINE) return x1 + <f32>(0.5 - 0.5 * Math.cos(3.141592653589793 * <f64>f)) * (x2 - x1);
  const x0 = tape.at(n - 1, side, frame),
    x3 = tape.at(n + 2, side, frame);
  if (kind == CUBIC) return cubicBetween(x0, x1, x2, x3, f);
  const m = tape.at(n - 2, side, frame),
    p = tape.at(n + 3, side, frame);
  return quinticBetween(m, x0, x1, x2, x3, p, f);
}

/** Six-point, fifth-order Lagrange at fraction f behind x2: each sample times the product over the other nodes. */
function quinticBetween(x0: f32, x1: f32, x2: f32, x3: f32, x4: f32, x5: f32, f: f32): f32 {
  const a: f32 = f + 2,
    b: f32 = f + 1,
    d: f32 = f - 1,
    e: f32 = f - 2,
    g: f32 = f - 3;
  const de: f32 = d * e,
    ab: f32 = a * b,
    deg: f32 = de * g;
  return (
    (x0 * b * f * deg) / -120 +
    (x1 * a * f * deg) / 24 +
    (x2 * ab * deg) / -12 +
    (x3 * ab * f * e * g) / 12 +
    (x4 * ab * f * d * g) / -24 +
    (x5 * ab * f * de) / 120
  );
}

/** The tape of a voice. */
export function tapeOf(aux: usize, voice: u32, voiceBytes: usize): Tape {
  return changetype<Tape>(aux + <usize>voice * voiceBytes);
}
