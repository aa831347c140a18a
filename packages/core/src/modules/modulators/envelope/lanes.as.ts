// A group of lanes in their present segments: how long those are, and the curve they run on.
import * as P from "../../../generated/envelope.as";
import { BLOCK_FRAMES } from "../../../kernels/abi";
import { sampleRate } from "../../../kernels/time.as";
import {
  add,
  at,
  COMMON,
  div,
  exp2,
  mul,
  ONE,
  PER_HALF_CYCLE,
  select,
  splat,
  sub,
} from "../../../kernels/simd.as";

export const IDLE = 0,
  DELAY = 1,
  ATTACK = 2,
  HOLD = 3,
  DECAY = 4,
  SUSTAIN = 5,
  RELEASE = 6;
const TO_FIXED: f32 = 4294967296.0;
/** k = 6 curve, in octaves of e: f(x) = (1 - e^-kx) / (1 - e^-k). */
const CURVE_OCTAVES: f32 = 8.65617025;
/** Flatter than this the curve is a straight line to a part in two thousand, and the quotient would lose digits. */
const LEAST_CURVE: f32 = 0.005;
/** Frames between exact values of a curve. */
export const ANCHOR: u32 = 32;
/** Rounds segment lengths so that one of exactly n samples ends after n, in 32-bit arithmetic. */
const EAGER: f32 = 1.0000002;
/** No sample passes more than this many segments of no length (a looped envelope may have only such). */
export const MOST_STEPS = 8;
export const END_SECONDS: f32 = 0.001;
/** Scratch row of levels nobody reads, one for each of two groups. */
export const LEVELS: u32 = 7;

/** What runs through a block: a group of lanes in their present segments, and where its levels go. */
@unmanaged
export class Lanes {
  // The present segments, worked out when a stage or a moving parameter changes.
  step: v128;
  target: v128;
  bend: v128;
  norm: v128;
  straight: v128;
  // The levels of the next frames: y = a + b c, where c runs on as c r + d.
  a: v128;
  b: v128;
  c: v128;
  r: v128;
  d: v128;
  g: u32;
  frame: u32;
  /** Nothing moves and nothing is about to: one value for the whole segment. */
  still: bool;
  /** A parameter moves within the block. */
  moves: bool;
  levels: u32;
  ends: u32;
  gate: u32;
  gateStep: u32;
  trigger: u32;
  triggerStep: u32;
  state: P.State;
}
const LANES_BYTES: i32 = 256;
export const FIRST: Lanes = changetype<Lanes>(memory.data(LANES_BYTES, 16));
export const SECOND: Lanes = changetype<Lanes>(memory.data(LANES_BYTES, 16));

// @ts-ignore: decorator
@inline function valueOf(m: P.Module, param: usize, g: u32, frame: u32): v128 {
  return v128.load(m.signal(param).row(g, frame));
}


@inline function when(stages: v128, stage: i32): v128 {
  return i32x4.eq(stages, i32x4.splat(stage));
}

/** Segment lengths of every lane in frames. */
function lengthsOf(m: P.Module, g: u32, frame: u32, stages: v128): v128 {
  let t = v128.and(when(stages, DELAY), valueOf(m, P.PARAM_DELAY, g, frame));
  t = v128.or(t, v128.and(when(stages, ATTACK), valueOf(m, P.PARAM_ATTACK, g, frame)));
  t = v128.or(t, v128.and(when(stages, HOLD), valueOf(m, P.PARAM_HOLD, g, frame)));
  t = v128.or(t, v128.and(when(stages, DECAY), valueOf(m, P.PARAM_DECAY, g, frame)));
  t = v128.or(t, v128.and(when(stages, RELEASE), valueOf(m, P.PARAM_RELEASE, g, frame)));
  return mul(t, splat(sampleRate));
}

export function refresh(m: P.Module, x: Lanes, frame: u32): void {
  const g = x.g,
    state = x.state;
  const stages = state.stage,
    peak = state.peak;
  const resting = v128.or(when(stages, IDLE), when(stages, SUSTAIN));
  const fixed = div(splat(TO_FIXED * EAGER), lengthsOf(m, g, frame, stages));
  x.step = v128.andnot(i32x4.trunc_sat_f32x4_u(fixed), resting);
  const sustained = mul(valueOf(m, P.PARAM_SUSTAIN, g, frame), peak);
  const from = select(sustained, state.from, when(stages, SUSTAIN));
  state.from = from;
  const toPeak = v128.or(when(stages, ATTACK), when(stages, HOLD));
  let target = select(from, splat(0), v128.or(when(stages, DELAY), when(stages, SUSTAIN)));
  target = select(peak, target, toPeak);
  x.target = select(sustained, target, when(stages, DECAY));
  let curve = v128.and(when(stages, ATTACK), valueOf(m, P.PARAM_ATTACKCURVE, g, frame));
  curve = v128.or(curve, v128.and(when(stages, DECAY), valueOf(m, P.PARAM_DECAYCURVE, g, frame)));
  curve = v128.or(curve, v128.and(when(stages, RELEASE), valueOf(m, P.PARAM_RELEASECURVE, g, frame)));
  const bend = mul(curve, splat(-CURVE_OCTAVES));
  x.bend = bend;
  x.norm = div(splat(1), sub(splat(1), exp2(bend)));
  x.straight = f32x4.lt(f32x4.abs(bend), splat(LEAST_CURVE));
  anchorChanged(x);
}

/** Frames until the first of the four segments ends, at least 1. */
export function framesToEnd(x: Lanes): u32 {
  const position = x.state.positionAt,
    step = changetype<usize>(x) + offsetof<Lanes>("step");
  let least: u32 = BLOCK_FRAMES;
  for (let k: usize = 0; k < 16; k += 4) {
    const s = load<u32>(step + k);
    if (s)
      least = min(
        least,
        <u32>min<u64>((<u64>0xffffffff - <u64>load<u32>(position + k)) / <u64>s + 1, BLOCK_FRAMES),
      );
  }
  return max(least, 1);
}

/** Takes 2^(bend x) anew, in the lanes of `where`; straight lanes keep x itself. */
export function anchor(x: Lanes, where: v128): void {
  const state = x.state;
  const share = mul(f32x4.convert_i32x4_s(i32x4.shr_u(state.position, 1)), at(COMMON, PER_HALF_CYCLE));
  state.curveNow = select(select(share, exp2(mul(x.bend, share)), x.straight), state.curveNow, where);
}

/** Lanes whose curve or speed changed since they were last anchored are anchored again. */
function anchorChanged(x: Lanes): void {
  const state = x.state;
  const changed = v128.or(f32x4.ne(x.bend, state.bendBefore), i32x4.ne(x.step, state.stepBefore));
  if (!v128.any_true(changed)) return;
  anchor(x, changed);
  state.bendBefore = x.bend;
  state.stepBefore = x.step;
}

/** How the levels of the present segments run. */
export function setWay(x: Lanes): void {
  const from = x.state.from,
    span = sub(x.target, from),
    straight = x.straight;
  const curvedSpan = mul(span, x.norm);
  x.a = select(from, add(from, curvedSpan), straight);
  x.b = select(span, f32x4.neg(curvedSpan), straight);
  const dx = mul(f32x4.convert_i32x4_s(i32x4.shr_u(x.step, 1)), at(COMMON, PER_HALF_CYCLE));
  x.r = select(at(COMMON, ONE), exp2(mul(x.bend, dx)), straight);
  x.d = v128.and(dx, straight);
}

// @ts-ignore: decorator
@inline export function anchorAt(x: Lanes, absolute: u32): void {
  if ((absolute & (ANCHOR - 1)) == 0) anchor(x, i32x4.splat(-1));
}
/** Moves the positions on by what has been written; marks the lanes whose position wrapped at the last frame. */
// @ts-ignore: decorator
@inline export function moveOn(x: Lanes, c: v128, last: v128, frames: u32): void {
  const state = x.state,
    position = i32x4.add(state.position, i32x4.mul(x.step, i32x4.splat(<i32>frames)));
  state.curveNow = c;
  state.value = last;
  state.position = position;
  state.ended = i32x4.lt_u(position, i32x4.sub(position, x.step));
  state.age = i32x4.add(state.age, i32x4.splat(<i32>frames));
}
