import * as P from "../../../generated/follower.as";
import { isZero } from "../../../kernels/edges.as";
import { sampleRate } from "../../../kernels/time.as";
import { gainOfDb } from "../../../kernels/levels.as";
import { add, div, exp2, higher, mul, select, splat, sub } from "../../../kernels/simd.as";

const LOG2E: f32 = 1.44269504;
/** 3 dB below. */
const CLOSES: f32 = 0.70794578;
/** Below this it has ended: −140 dB. */
const SILENCE: f32 = 1e-7;

export function idle(m: P.Module, g: u32): bool {
  const state = m.state(g);
  return isZero(state.levelAt) && isZero(state.openAt) && !v128.any_true(f32x4.ne(m.in.at(g, 0), splat(0)));
}

export function compute(m: P.Module, g: u32, f: u32): void {
  const state = m.state(g);
  const x = mul(f32x4.abs(m.in.at(g, f)), gainOfDb(m.gain.at(g, f)));
  const before = state.level;
  const frames = mul(
    select(m.attack.at(g, f), m.release.at(g, f), f32x4.gt(x, before)),
    splat(sampleRate / 1000),
  );
  let y = add(x, mul(sub(before, x), exp2(div(splat(-LOG2E), higher(frames, splat(1e-3))))));
  y = v128.and(y, f32x4.gt(y, splat(SILENCE)));
  state.level = y;
  const threshold = gainOfDb(m.threshold.at(g, f));
  const open = v128.or(
    f32x4.gt(y, threshold),
    v128.and(state.open, f32x4.gt(y, mul(threshold, splat(CLOSES)))),
  );
  state.open = open;
  m.outEnv.put(g, f, y);
  m.outGate.put(g, f, v128.and(open, splat(1)));
}
