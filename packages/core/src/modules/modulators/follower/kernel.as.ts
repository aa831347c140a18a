import * as P from "../../../generated/follower.as";
import { isZero } from "../../../kernels/edges.as";
import { put, read, sampleRate, stateOf } from "../../../kernels/instance.as";
import { gainOfDb } from "../../../kernels/levels.as";
import { add, div, exp2, higher, mul, select, splat, sub } from "../../../kernels/simd.as";

const LOG2E: f32 = 1.44269504;
/** 3 dB below. */
const CLOSES: f32 = 0.70794578;
/** Below this it has ended: −140 dB. */
const SILENCE: f32 = 1e-7;

export function idle(instance: usize, g: u32): bool {
  const state = stateOf(instance, g);
  return (
    isZero(state + P.STATE_LEVEL) &&
    isZero(state + P.STATE_OPEN) &&
    !v128.any_true(f32x4.ne(read(instance, P.IN_IN, g, 0), splat(0)))
  );
}

export function compute(instance: usize, g: u32, f: u32): void {
  const state = stateOf(instance, g);
  const x = mul(f32x4.abs(read(instance, P.IN_IN, g, f)), gainOfDb(read(instance, P.PARAM_GAIN, g, f)));
  const before = v128.load(state + P.STATE_LEVEL);
  const frames = mul(
    select(read(instance, P.PARAM_ATTACK, g, f), read(instance, P.PARAM_RELEASE, g, f), f32x4.gt(x, before)),
    splat(sampleRate / 1000),
  );
  let y = add(x, mul(sub(before, x), exp2(div(splat(-LOG2E), higher(frames, splat(1e-3))))));
  y = v128.and(y, f32x4.gt(y, splat(SILENCE)));
  v128.store(state + P.STATE_LEVEL, y);
  const threshold = gainOfDb(read(instance, P.PARAM_THRESHOLD, g, f));
  const open = v128.or(
    f32x4.gt(y, threshold),
    v128.and(v128.load(state + P.STATE_OPEN), f32x4.gt(y, mul(threshold, splat(CLOSES)))),
  );
  v128.store(state + P.STATE_OPEN, open);
  put(instance, P.OUT_ENV, g, f, y);
  put(instance, P.OUT_GATE, g, f, v128.and(open, splat(1)));
}
