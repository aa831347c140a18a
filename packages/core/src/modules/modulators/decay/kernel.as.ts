import * as P from "../../../generated/decay.as";
import { isZero, nextTrigger, rising, startTrigger, unmoved } from "../../../kernels/edges.as";
import { sampleRate } from "../../../kernels/time.as";
import { curveOf } from "../../../kernels/curves.as";
import { unsignedPhase } from "../../../kernels/phase.as";
import { add, div, exp2, higher, log2, madd, mul, select, splat, sub } from "../../../kernels/simd.as";

const RISE: i32 = 1,
  FALL: i32 = 2;
const TO_FIXED: f32 = 4294967296.0;
/** Rounds lengths so that one of exactly n samples ends after n, in 32-bit arithmetic. */
const EAGER: f32 = 1.0000002;

export function idle(state: P.State, trigger: v128): bool {
  return unmoved(state.beforeAt, trigger) && isZero(state.stageAt) && isZero(state.endLeftAt);
}

export function compute(
  m: P.Module,
  state: P.State,
  out: P.Outputs,
  trigger: v128,
  attack: v128,
  curve: v128,
  velocityAmount: v128,
  velocity: v128,
  decay: v128,
  power: v128,
  input: v128,
): void {
  const rises = rising(state.beforeAt, trigger);
  let stage = state.stage,
    position = state.position,
    from = state.from,
    peak = state.peak;
  const attackFrames = mul(attack, splat(sampleRate));
  if (v128.any_true(rises)) {
    const strength = m.velocity.isCabled ? velocity : splat(1);
    const now = levelAt(stage, position, from, peak, curve);
    from = v128.bitselect(now, from, rises);
    peak = v128.bitselect(madd(sub(strength, splat(1)), velocityAmount, splat(1)), peak, rises);
    stage = v128.bitselect(
      select(i32x4.splat(FALL), i32x4.splat(RISE), f32x4.lt(attackFrames, splat(1))),
      stage,
      rises,
    );
    position = v128.andnot(position, rises);
  }
  const level = levelAt(stage, position, from, peak, curve);
  const falling = i32x4.eq(stage, i32x4.splat(FALL)),
    busy = i32x4.ne(stage, i32x4.splat(0));
  const frames = higher(select(mul(decay, splat(sampleRate)), attackFrames, falling), splat(1));
  const next = i32x4.add(
    position,
    v128.and(i32x4.trunc_sat_f32x4_u(div(splat(TO_FIXED * EAGER), frames)), busy),
  );
  const over = v128.and(busy, v128.or(i32x4.lt_u(next, position), f32x4.le(frames, splat(1))));
  startTrigger(state.endLeftAt, v128.and(over, falling));
  state.position = v128.andnot(next, over);
  state.stage = v128.bitselect(select(splat(0), i32x4.splat(FALL), falling), stage, over);
  state.from = v128.bitselect(splat(0), from, over);
  state.peak = peak;
  const raised = select(level, exp2(mul(power, log2(level))), f32x4.le(power, splat(1)));
  const env = v128.and(raised, f32x4.gt(level, splat(0)));
  out.env = env;
  if (m.outOut.isWanted) out.out = mul(env, input);
  out.end = nextTrigger(state.endLeftAt);
}


@inline function levelAt(stage: v128, position: v128, from: v128, peak: v128, curve: v128): v128 {
  const x = unsignedPhase(position);
  const rise = madd(sub(peak, from), x, from),
    fall = mul(peak, sub(splat(1), curveOf(x, curve)));
  return v128.and(select(rise, fall, i32x4.eq(stage, i32x4.splat(RISE))), i32x4.ne(stage, i32x4.splat(0)));
}
