// What a reverb keeps for each voice: a room.
import { madd, splat } from "../../../kernels/simd.as";

export const LINES: u32 = 16,
  ROUNDS: u32 = 3,
  TAPS: u32 = 8;
/** Places of lengths in a row of them: lines, rounds, own taps, taps of the other side, the tail's begin. */
export const ROUND0: u32 = LINES,
  OWN: u32 = LINES + ROUNDS * LINES,
  OTHER: u32 = OWN + TAPS,
  LATE: u32 = OTHER + TAPS;
/** A room is settled so many frames at a time. */
export const STEP: u32 = 16;

/** Ramps: what is let in, early reflections, direct and scattered sound into the lines, level of the tail, share of the new lengths, what each side hears of the other. */
export const IN: usize = 0,
  EARLY: usize = 4,
  DIRECT: usize = 8,
  SCATTERED: usize = 12,
  TAIL: usize = 16,
  FADED: usize = 20,
  ACROSS: usize = 24;
const RAMP_BYTES: usize = 32;
export const GOALS: usize = 64;

/** A voice's room in its state. */
@unmanaged
export class Room {
  isStarted: u32;
  model: i32;
  scale: f32;
  /** 0 playing, 1 frozen. */
  frozen: f32;
  faded: f32;
  /** In whole frames, and how far what is read is still from it. */
  predelay: f32;
  predelayWay: f32;
  quiet: u32;
  highTangent: f32;
  lowTangent: f32;
  cutTangent: f32;
  toneTangent: f32;
  lowToneTangent: f32;
  toneHigh: f32;
  toneLow: f32;
  hasHigh: u32;
  hasLow: u32;
  hasCut: u32;
  decay: f32;
  level: f32;
  damping: f32;
  highDecay: f32;
  lowDecay: f32;
  across: f32;
  /** Frame it began at: its motion counts from there. */
  born: f64;
  /** Settlings since anything moved. */
  still: u32;
  /** No early reflections are heard. */
  isMute: u32;
  /** Level of the model, and the corner of its highs. */
  loudness: f32;
  toneHertz: f32;


  @inline get address(): usize {
    return changetype<usize>(this);
  }


  @inline static at(address: usize): Room {
    return changetype<Room>(address);
  }
  /** Ramps now, and their steps a frame. */
  @inline get ramps(): usize {
    return this.address + RAMPS;
  }


  @inline ramp(which: usize, j: u32): v128 {
    const at = this.ramps + which;
    return madd(splat(load<f32>(at, RAMP_BYTES)), along(j), splat(load<f32>(at)));
  }


  @inline get turns(): usize {
    return this.address + TURNS;
  }


  @inline get gains(): usize {
    return this.address + GAINS;
  }
  /** Two factors of the highs and two of the lows for each line. */
  @inline get shelves(): usize {
    return this.address + SHELVES;
  }


  @inline length(n: u32): u32 {
    return load<u32>(this.address + NOW + ((<usize>n) << 2));
  }


  @inline nextLength(n: u32): u32 {
    return load<u32>(this.address + NEXT + ((<usize>n) << 2));
  }


  @inline get lengths(): usize {
    return this.address + NOW;
  }


  @inline get nextLengths(): usize {
    return this.address + NEXT;
  }
  /** Gains of the taps: own, then those of the other side. */
  @inline get tapGains(): usize {
    return this.address + TAP_GAINS;
  }


  @inline get nextTapGains(): usize {
    return this.address + NEXT_TAP_GAINS;
  }
}
/** Where all else stands behind the fields, 16 bytes each vector. */
const RAMPS: usize = 128,
  TURNS: usize = 224,
  GAINS: usize = 416,
  SHELVES: usize = 608;
export const NOW: usize = 864,
  NEXT: usize = 1200,
  LENGTH_BYTES: usize = 336,
  TAP_GAINS: usize = 1536,
  NEXT_TAP_GAINS: usize = 1600,
  SEEN: usize = 1664;
export const ROOM_BYTES: usize = 1696;

/** Frames from `j` on, counted from the last settling. */
@inline export function along(j: u32): v128 {
  return f32x4.add(splat(<f32>j), f32x4(0, 1, 2, 3));
}
