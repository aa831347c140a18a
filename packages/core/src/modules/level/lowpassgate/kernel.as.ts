import * as P from "../../../generated/lowpassgate.as";
import { approach, endedBelow, keepOver } from "../../../kernels/detectors.as";
import { isZero, rising, unmoved } from "../../../kernels/edges.as";
import { sampleRate } from "../../../kernels/time.as";
import { tangentOfShare } from "../../../kernels/filters.as";
import { isEmpty } from "../../../kernels/quiet.as";
import {
  add,
  clamp,
  div,
  exp2,
  higher,
  lower,
  madd,
  mul,
  select,
  splat,
  sub,
} from "../../../kernels/simd.as";

/** It opens within about 3 ms, as light does; a strike is held for as long. */
const OPENING: f32 = 0.001;
const STRIKE: f32 = 0.003;
const SILENCE: f32 = 1e-5;
const LOWEST: f32 = 30,
  OCTAVES: f32 = 9.2;

export function idle(state: P.State, trigger: v128, input: v128, cv: v128): bool {
  return (
    isEmpty(state.address, 3) &&
    isZero(state.struckAt) &&
    unmoved(state.beforeAt, trigger) &&
    !v128.any_true(v128.or(input, cv))
  );
}

export function compute(
  m: P.Module,
  state: P.State,
  trigger: v128,
  cv: v128,
  decay: v128,
  resonance: v128,
  input: v128,
): v128 {
  const rises = rising(state.beforeAt, trigger);
  let struck = v128.bitselect(i32x4.splat(<i32>(STRIKE * sampleRate)), state.struck, rises);
  const striking = i32x4.gt_s(struck, i32x4.splat(0));
  state.struck = i32x4.add(struck, striking);
  const goal = higher(clamp(cv, splat(0), splat(1)), v128.and(striking, splat(1)));
  let open = state.open;
  // The closing slows down as it gets dark: the time constant grows towards the end.
  const closing = mul(decay, sub(splat(0.45), mul(splat(0.25), open)));
  const seconds = select(splat(OPENING), closing, f32x4.gt(goal, open));
  open = endedBelow(approach(open, goal, keepOver(1 / sampleRate, higher(seconds, splat(1e-5)))), SILENCE);
  state.open = open;
  const mode = m.mode;
  const cutoff =
    mode == P.MODE_LEVEL ? splat(20000) : mul(splat(LOWEST), exp2(mul(splat(OCTAVES), f32x4.sqrt(open))));
  const gain = mode == P.MODE_FILTER ? splat(1) : mul(open, open);
  const gg = tangentOfShare(lower(mul(cutoff, splat(1 / sampleRate)), splat(0.45)));
  const k = higher(sub(splat(2), mul(splat(2), resonance)), splat(0.04));
  const one = state.one,
    two = state.two;
  const a1 = div(splat(1), madd(gg, add(gg, k), splat(1)));
  const v3 = sub(mul(input, gain), two);
  const v1 = mul(a1, madd(gg, v3, one)),
    v2 = madd(gg, v1, two);
  state.one = sub(add(v1, v1), one);
  state.two = sub(add(v2, v2), two);
  return v2;
}
