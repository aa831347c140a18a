import * as P from "../../../generated/dynamics.as";
import { SIGNAL_FIXED } from "../../../kernels/abi";
import {
  auxBytesOf,
  auxOf,
  groupsOf,
  isCabled,
  numberOf,
  peek,
  put,
  read,
  rest,
  sampleRate,
  settled,
  sidesOf,
  signalAt,
  stateOf,
  time,
  writeConstant,
} from "../../../kernels/instance.as";
import { DB_PER_OCTAVE, gainOfDb } from "../../../kernels/levels.as";
import { isQuiet } from "../../../kernels/quiet.as";
import {
  add,
  div,
  exp2,
  higher,
  log2,
  lower,
  mixed,
  mul,
  select,
  splat,
  sub,
} from "../../../kernels/simd.as";

const LOG2E: f32 = 1.44269504;
const RING: u32 = 4096;

/** Peaks are held for so long, half a period of 50 Hz, before they fall: a steady tone reads its peak at all times. */
const HOLD_SECONDS: f32 = 0.01,
  FALL_SECONDS: f32 = 0.005;
// @ts-ignore: decorator
@inline function heldPeak(state: usize, level: v128): v128 {
  const before = v128.load(state + P.STATE_PEAK),
    left = v128.load(state + P.STATE_HOLD);
  const rises = f32x4.ge(level, before),
    fallen = mul(before, splat(1 - 1 / (1 + FALL_SECONDS * sampleRate)));
  const peak = select(level, select(before, higher(fallen, level), i32x4.gt_s(left, i32x4.splat(0))), rises);
  v128.store(state + P.STATE_PEAK, v128.and(peak, f32x4.gt(peak, splat(1e-9))));
  v128.store(
    state + P.STATE_HOLD,
    v128.bitselect(
      i32x4.splat(<i32>(HOLD_SECONDS * sampleRate + 0.5)),
      i32x4.add(left, i32x4.gt_s(left, i32x4.splat(0))),
      rises,
    ),
  );
  return peak;
}

/** How far the bend reaches at x dB above the threshold: 0 below the knee, x above it, a parabola within. */
// @ts-ignore: decorator
@inline function bend(x: v128, knee: v128): v128 {
  const half = mul(knee, splat(0.5)),
    inside = higher(add(x, half), splat(0));
  const soft = div(mul(inside, inside), higher(add(knee, knee), splat(1e-3)));
  return select(higher(x, splat(0)), soft, f32x4.ge(x, half));
}

export function process(instance: usize, frame: u32, frames: u32): void {
  const input = signalAt(instance, P.IN_IN),
    side = isCabled(signalAt(instance, P.IN_SIDE)) ? signalAt(instance, P.IN_SIDE) : input;
  const inLoop = load<u32>(signalAt(instance, P.OUT_OUT), SIGNAL_FIXED) != 0;
  const ahead =
    inLoop || auxBytesOf(instance) == 0
      ? 0
      : <u32>(numberOf(instance, P.SET_LOOKAHEAD) * <f32>0.001 * sampleRate + <f32>0.5);
  const stereo = sidesOf(instance) == 2;
  let resting = ahead == 0;
  for (let g: u32 = 0, groups = groupsOf(instance); g < groups; ++g) {
    const state = stateOf(instance, g),
      ring = auxOf(instance) + <usize>g * RING * 16;
    if (
      ahead == 0 &&
      settled(instance, g) &&
      isQuiet(input, g, frame, state, 2) &&
      !v128.any_true(peek(side, g, frame))
    ) {
      writeConstant(signalAt(instance, P.OUT_OUT), g, frame, frames, splat(0));
      writeConstant(signalAt(instance, P.OUT_REDUCTION), g, frame, frames, splat(0));
      continue;
    }
    resting = false;
    let change = v128.load(state + P.STATE_CHANGE);
    for (let f = frame, end = frame + frames; f < end; ++f) {
      let level = heldPeak(state, f32x4.abs(peek(side, g, f)));
      // Both sides of a voice move together, or the middle would wander.
      if (stereo) level = higher(level, v128.shuffle<i32>(level, level, 1, 0, 3, 2));
      const over = sub(
        mul(log2(higher(level, splat(1e-6))), splat(DB_PER_OCTAVE)),
        read(instance, P.PARAM_THRESHOLD, g, f),
      );
      const ratio = read(instance, P.PARAM_RATIO, g, f),
        knee = read(instance, P.PARAM_KNEE, g, f);
      const compressing = mul(bend(over, knee), sub(div(splat(1), ratio), splat(1)));
      const expanding = f32x4.neg(mul(bend(f32x4.neg(over), knee), sub(div(splat(1), ratio), splat(1))));
      const goal = higher(select(compressing, expanding, f32x4.ge(ratio, splat(1))), splat(-90));
      // Attack is the way to less for a compressor, to more for an expander: whenever the sound gets louder.
      const louder = select(f32x4.lt(goal, change), f32x4.gt(goal, change), f32x4.ge(ratio, splat(1)));
      const ms = select(read(instance, P.PARAM_ATTACK, g, f), read(instance, P.PARAM_RELEASE, g, f), louder);
      change = add(goal, mul(sub(change, goal), exp2(div(splat((-LOG2E * 1000) / sampleRate), ms))));
      let x = peek(input, g, f);
      if (ahead) {
        const now = time + f;
        v128.store(ring + ((<usize>(now & (RING - 1))) << 4), x);
        x = v128.load(ring + ((<usize>((now - ahead) & (RING - 1))) << 4));
      }
      const gain = gainOfDb(add(change, read(instance, P.PARAM_MAKEUP, g, f)));
      put(instance, P.OUT_OUT, g, f, mixed(x, mul(x, gain), read(instance, P.PARAM_MIX, g, f)));
      put(
        instance,
        P.OUT_REDUCTION,
        g,
        f,
        lower(splat(1), higher(splat(0), mul(change, splat(-1.0 / 60.0)))),
      );
    }
    v128.store(state + P.STATE_CHANGE, change);
  }
  if (resting) rest(instance);
}
