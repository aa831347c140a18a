import * as P from "../../../generated/strike.as";
import { rising, unmoved } from "../../../kernels/edges.as";
import {
  choiceOf,
  isCabled,
  laneSeedsOf,
  put,
  read,
  sampleRate,
  signalAt,
  stateOf,
} from "../../../kernels/instance.as";
import { isEmpty } from "../../../kernels/quiet.as";
import { tiltCoefficient, tilted } from "../../../kernels/onepole.as";
import { add, bipolar, div, higher, mixBits, mul, sineOfCycles, splat, sub } from "../../../kernels/simd.as";

export function idle(instance: usize, g: u32): bool {
  const state = stateOf(instance, g);
  return (
    isEmpty(state, 1) &&
    !v128.any_true(v128.load(state + P.STATE_POSITION)) &&
    unmoved(state + P.STATE_BEFORE, read(instance, P.IN_TRIGGER, g, 0))
  );
}

export function compute(instance: usize, g: u32, f: u32): void {
  const state = stateOf(instance, g);
  const rises = rising(state + P.STATE_BEFORE, read(instance, P.IN_TRIGGER, g, f));
  // Frames since the hit, plus one; 0 at rest.
  let position = v128.bitselect(splat(1), v128.load(state + P.STATE_POSITION), rises);
  const given = isCabled(signalAt(instance, P.IN_VELOCITY)) ? read(instance, P.IN_VELOCITY, g, f) : splat(1);
  const velocity = v128.bitselect(given, v128.load(state + P.STATE_VELOCITY), rises);
  const count = i32x4.add(v128.load(state + P.STATE_COUNT), i32x4.splat(1));
  v128.store(state + P.STATE_VELOCITY, velocity);
  v128.store(state + P.STATE_COUNT, count);
  const kind = choiceOf(instance, P.SET_KIND);
  let frames = higher(mul(read(instance, P.PARAM_LENGTH, g, f), splat(sampleRate / 1000)), splat(2));
  // A soft blow of a mallet lasts up to twice as long.
  if (kind == P.KIND_MALLET) frames = mul(frames, sub(splat(2), velocity));
  const x = div(sub(position, splat(1)), frames),
    on = v128.and(f32x4.gt(position, splat(0)), f32x4.lt(x, splat(1)));
  const half = sineOfCycles(mul(x, splat(0.5)));
  let y = half;
  if (kind == P.KIND_MALLET) y = mul(half, half);
  if (kind == P.KIND_NOISE)
    y = mul(
      bipolar(mixBits(v128.xor(laneSeedsOf(instance, g), i32x4.mul(count, i32x4.splat(0x9e3779b1))))),
      sub(splat(1), x),
    );
  y = v128.and(mul(mul(y, velocity), read(instance, P.PARAM_LEVEL, g, f)), on);
  put(
    instance,
    P.OUT_OUT,
    g,
    f,
    tilted(state + P.STATE_TILT, y, read(instance, P.PARAM_TONE, g, f), splat(tiltCoefficient())),
  );
  v128.store(state + P.STATE_POSITION, v128.and(add(position, splat(1)), on));
}
