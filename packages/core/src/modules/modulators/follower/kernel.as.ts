import * as P from "../../../generated/follower.as";
import { approach, endedBelow, keepOver } from "../../../kernels/detectors.as";
import { isZero } from "../../../kernels/edges.as";
import { sampleRate } from "../../../kernels/time.as";
import { gainOfDb } from "../../../kernels/levels.as";
import { higher, mul, select, splat } from "../../../kernels/simd.as";

/** 3 dB below. */
const CLOSES: f32 = 0.70794578;
/** Below this it has ended: −140 dB. */
const SILENCE: f32 = 1e-7;

export function idle(state: P.State, input: v128): bool {
  return isZero(state.levelAt) && isZero(state.openAt) && !v128.any_true(f32x4.ne(input, splat(0)));
}

export function compute(
  state: P.State,
  out: P.Outputs,
  input: v128,
  gain: v128,
  attack: v128,
  release: v128,
  threshold: v128,
): void {
  const x = mul(f32x4.abs(input), gainOfDb(gain));
  const before = state.level;
  const frames = mul(select(attack, release, f32x4.gt(x, before)), splat(sampleRate / 1000));
  const y = endedBelow(approach(before, x, keepOver(1, higher(frames, splat(1e-3)))), SILENCE);
  state.level = y;
  const opens = gainOfDb(threshold);
  const open = v128.or(f32x4.gt(y, opens), v128.and(state.open, f32x4.gt(y, mul(opens, splat(CLOSES)))));
  state.open = open;
  out.env = y;
  out.gate = v128.and(open, splat(1));
}
