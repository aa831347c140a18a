// Two springs, left and right: the delay there and back, the chain of all-passes, and what is lost on the way.
import { lowPass } from "../../../kernels/onepole.as";
import { audible } from "../../../kernels/lanes.as";
import * as P from "../../../generated/spring.as";
import { INTERPOLATION_CUBIC, past, readPast, slotOf } from "../../../kernels/delays.as";
import { scratch } from "../../../kernels/scratch.as";
import { add, clamp, madd, mul, splat, sub } from "../../../kernels/simd.as";
import { sampleRate } from "../../../kernels/time.as";

/** Places in the table: samples an all-pass is stretched over, all-passes, samples of a ring, ways of both banks in ms. */
export const TABLE_STAGES: usize = 4,
  TABLE_RING: usize = 8,
  TABLE_WAYS: usize = 16;
const BEND_SECONDS: f32 = 0.08,
  THERE: f32 = 2e-3;
/** A bank that begins is open after so many frames, one over. */
const OPENING: f32 = 1.0 / 1024;
const MOST: f32 = 16,
  SILENCE: f32 = 1e-8,
  LEAST: f32 = 1e-15;
/** Scratch: wet sound, what goes in, what comes back of each bank. */
export const WET: u32 = 0,
  INPUT: u32 = 1,
  ROW: u32 = 2;

/** What a voice keeps: two banks of springs. */
@unmanaged
export class Tank {
  /** Number of springs. */
  count0: v128;
  count1: v128;
  count2: v128;
  count3: v128;
  /** Delay of both banks in frames, the goals they bend to, and the way still left. */
  goal0: v128;
  goal1: v128;
  way0: v128;
  way1: v128;
  /** Gain of a way there and back, by lane. */
  gain0: v128;
  gain1: v128;
  isStarted: u32;
  slot: u32;
  quiet: u32;
  spread: f32;
  decay: f32;
  /** Frames since the second bank began. */
  age: u32;
  /** Coefficients that never change: of the lows taken out, of what goes in, of what each way loses. */
  low: f32;
  top: f32;
  loss: f32;


  @inline get address(): usize {
    return changetype<usize>(this);
  }
}

/** All-passes of a chain, one after the other, over a few frames: y = x[-K] + a (x - y[-K]); 0 where nothing is left. */
function runChain(
  nodes: usize,
  stages: u32,
  stretch: u32,
  slot: u32,
  a: v128,
  row: usize,
  frames: u32,
): v128 {
  const size = (<usize>stretch) << 4;
  let here = nodes + ((<usize>slot) << 4),
    any = splat(0);
  for (let n: u32 = 0; n < stages; ++n) {
    const next = here + size;
    for (let f: usize = 0, end = (<usize>frames) << 4; f < end; f += 16) {
      const x = v128.load(row + f),
        old = v128.load(here + f);
      v128.store(here + f, x);
      any = v128.or(any, x);
      v128.store(row + f, madd(a, sub(x, v128.load(next + f)), old));
    }
    here = next;
  }
  memory.copy(here, row, (<usize>frames) << 4);
  return any;
}

/** What is too soft to be heard is nothing: on every multiple of 128 frames, so that it does not hang on how time is cut. */
function flush(nodes: usize, bytes: usize): void {
  for (let p = nodes, end = nodes + bytes; p < end; p += 16) {
    const x = v128.load(p);
    v128.store(p, v128.and(x, f32x4.gt(f32x4.abs(x), splat(LEAST))));
  }
}

/** One bank over a few frames: what comes back of its springs in `row`; bits of all that is in it. */
export function runBank(
  m: P.Module,
  tank: Tank,
  memory_: usize,
  bank: usize,
  filter: usize,
  now: u32,
  frames: u32,
  loss: v128,
): v128 {
  const stretch = <u32>load<f32>(m.table),
    stages = <u32>load<f32>(m.table, TABLE_STAGES),
    ringFrames = <u32>load<f32>(m.table, TABLE_RING),
    mask = ringFrames - 1,
    nodeBytes = (<usize>(stages + 1) * stretch) << 4;
  const nodes = memory_ + bank * (nodeBytes + ((<usize>ringFrames) << 4)),
    ring = nodes + nodeBytes,
    row = scratch(ROW + <u32>bank),
    input = scratch(INPUT);
  const goal = v128.load(tank.address + 64 + (bank << 4)),
    gain = v128.load(tank.address + 128 + (bank << 4)),
    keep = splat(<f32>Math.exp(-1 / (<f64>BEND_SECONDS * <f64>sampleRate)));
  let way = v128.load(tank.address + 96 + (bank << 4));
  // What the second bank holds from before it began again is nothing.
  const age: u32 = bank == 0 ? 0x40000000 : tank.age;
  if (age == 0) memory.fill(nodes, 0, nodeBytes);
  for (let f: u32 = 0; f < frames; ++f) {
    if (!v128.any_true(way)) {
      const r = past(ring, mask, now + f, i32x4.trunc_sat_f32x4_s(goal), false);
      v128.store(row + (f << 4), age > mask ? r : v128.and(r, f32x4.ge(splat(<f32>(age + f)), goal)));
      continue;
    }
    way = mul(way, keep);
    way = v128.and(way, f32x4.gt(f32x4.abs(way), splat(THERE)));
    const back = clamp(add(goal, way), splat(2), splat(<f32>(mask - 8)));
    const r = readPast(INTERPOLATION_CUBIC, ring, mask, now + f, back, false, 0);
    v128.store(
      row + (f << 4),
      age > mask ? r : v128.and(r, f32x4.gt(splat(<f32>(age + f)), add(back, splat(2)))),
    );
  }
  v128.store(tank.address + 96 + (bank << 4), way);
  let any = runChain(nodes, stages, stretch, tank.slot, splat(tank.spread), row, frames);
  for (let f: u32 = 0; f < frames; ++f) {
    const under = lowPass(filter, v128.load(row + (f << 4)), loss);
    // Turned over at the end of the spring.
    // What begins fades in.
    const open = splat(min<f32>(1, <f32>(age + f) * OPENING)),
      u = audible(sub(mul(v128.load(input + (f << 4)), open), mul(gain, under)), MOST, SILENCE);
    any = v128.or(any, u);
    v128.store(slotOf(ring, mask, now + f), u);
  }
  if (((now + frames) & 127) == 0) flush(nodes, nodeBytes);
  return any;
}
