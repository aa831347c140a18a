import * as P from "../../../generated/crush.as";
import { sampleRate } from "../../../kernels/time.as";
import { isEmpty } from "../../../kernels/quiet.as";
import { stepPhase } from "../../../kernels/phase.as";
import { add, clamp, div, exp2, lower, mixed, mul, splat, sub } from "../../../kernels/simd.as";

export function idle(state: P.State, input: v128): bool {
  return isEmpty(state.heldAt, 2) && !v128.any_true(input);
}

export function compute(state: P.State, input: v128, rate: v128, bits: v128, mix: v128): v128 {
  const high = state.high;
  // A sample is taken where the phase of the lower rate came round, and always at full rate.
  const full = f32x4.ge(rate, splat(sampleRate * 0.9999));
  const takes = v128.or(full, i32x4.eq(state.started, i32x4.splat(0)));
  const held = v128.bitselect(input, state.held, takes);
  state.held = held;
  // Half the rate as a frequency in cycles of the full circle twice: rates up to the sample rate fit a signed step.
  stepPhase(state.highAt, high, state.low, lower(mul(rate, splat(0.5)), splat(0.5 * sampleRate)));
  const next = state.high;
  state.started = i32x4.eq(i32x4.shr_u(v128.xor(next, high), 31), i32x4.splat(0));
  // 2^bits levels, half a step to either side of 0; but silence is silence.
  const steps = exp2(sub(bits, splat(1))),
    most = sub(steps, splat(0.5));
  const level = clamp(add(f32x4.floor(mul(held, steps)), splat(0.5)), f32x4.neg(most), most);
  const still = v128.and(f32x4.eq(held, splat(0)), f32x4.eq(state.before, splat(0)));
  state.before = held;
  return mixed(input, v128.andnot(div(level, steps), still), mix);
}
