import * as P from "../../../generated/crush.as";
import { put, read, sampleRate, stateOf } from "../../../kernels/instance.as";
import { isEmpty } from "../../../kernels/quiet.as";
import { stepPhase } from "../../../kernels/phase.as";
import { add, clamp, div, exp2, lower, mixed, mul, splat, sub } from "../../../kernels/simd.as";

export function idle(instance: usize, g: u32): bool {
  return isEmpty(stateOf(instance, g) + P.STATE_HELD, 2) && !v128.any_true(read(instance, P.IN_IN, g, 0));
}

export function compute(instance: usize, g: u32, f: u32): void {
  const state = stateOf(instance, g),
    x = read(instance, P.IN_IN, g, f),
    rate = read(instance, P.PARAM_RATE, g, f);
  const high = v128.load(state + P.STATE_HIGH);
  // A sample is taken where the phase of the lower rate came round, and always at full rate.
  const full = f32x4.ge(rate, splat(sampleRate * 0.9999));
  const takes = v128.or(full, i32x4.eq(v128.load(state + P.STATE_STARTED), i32x4.splat(0)));
  const held = v128.bitselect(x, v128.load(state + P.STATE_HELD), takes);
  v128.store(state + P.STATE_HELD, held);
  // Half the rate as a frequency in cycles of the full circle twice: rates up to the sample rate fit a signed step.
  stepPhase(
    state + P.STATE_HIGH,
    high,
    v128.load(state + P.STATE_LOW),
    lower(mul(rate, splat(0.5)), splat(0.5 * sampleRate)),
  );
  const next = v128.load(state + P.STATE_HIGH);
  v128.store(state + P.STATE_STARTED, i32x4.eq(i32x4.shr_u(v128.xor(next, high), 31), i32x4.splat(0)));
  // 2^bits levels, half a step to either side of 0; but silence is silence.
  const steps = exp2(sub(read(instance, P.PARAM_BITS, g, f), splat(1))),
    most = sub(steps, splat(0.5));
  const level = clamp(add(f32x4.floor(mul(held, steps)), splat(0.5)), f32x4.neg(most), most);
  const still = v128.and(f32x4.eq(held, splat(0)), f32x4.eq(v128.load(state + P.STATE_BEFORE), splat(0)));
  v128.store(state + P.STATE_BEFORE, held);
  put(
    instance,
    P.OUT_OUT,
    g,
    f,
    mixed(x, v128.andnot(div(level, steps), still), read(instance, P.PARAM_MIX, g, f)),
  );
}
