// Comb: w = x + b D(w), y = w + c D(w), D a delay of one period through a one-pole of unit gain at 0 Hz. Outputs add up
// to x + (b + c) … ; the loop's delay is shortened by what the one-pole adds at the comb's own frequency.
import * as P from "../../../generated/comb.as";
import {
  auxBytesOf,
  auxOf,
  groupsOf,
  isCabled,
  isConstant,
  pointerTo,
  put,
  read,
  rest,
  sampleRate,
  settled,
  signalAt,
  stateOf,
  time,
  writeConstant,
} from "../../../kernels/instance.as";
import { INTERPOLATION_CUBIC, readPast } from "../../../kernels/delays.as";
import { BODY_KNEE, BODY_RANGE, softLimit } from "../../../kernels/limits.as";
import { clamp, div, exp2, higher, madd, mul, splat, sub, uniform } from "../../../kernels/simd.as";

export function process(instance: usize, frame: u32, frames: u32): void {
  const input = signalAt(instance, P.IN_IN);
  const bytes = auxBytesOf(instance) / groupsOf(instance),
    mask = (bytes >> 4) - 1,
    tracks = isCabled(signalAt(instance, P.IN_PITCH));
  let resting = true;
  for (let g: u32 = 0, groups = groupsOf(instance); g < groups; ++g) {
    const state = stateOf(instance, g),
      ring = auxOf(instance) + <usize>g * bytes;
    const silent = isConstant(input, g) && !v128.any_true(v128.load(pointerTo(input, g, frame)));
    // Quiet counts frames of nothing: after as many as the ring holds there is nothing left in it.
    let quiet = load<u32>(state + P.STATE_QUIET);
    if (silent && quiet > mask && settled(instance, g)) {
      writeConstant(signalAt(instance, P.OUT_OUT), g, frame, frames, splat(0));
      continue;
    }
    resting = false;
    let damped = v128.load(state + P.STATE_DAMPED);
    for (let f = frame, end = frame + frames; f < end; ++f) {
      let hertz = read(instance, P.PARAM_FREQUENCY, g, f);
      if (tracks)
        hertz = mul(
          hertz,
          exp2(mul(read(instance, P.PARAM_TRACKING, g, f), read(instance, P.IN_PITCH, g, f))),
        );
      const a = mul(read(instance, P.PARAM_DAMPING, g, f), splat(0.9));
      // Phase delay of (1 - a) / (1 - a z) near its own frequency, for frequencies far below Nyquist: a / (1 - a).
      const lag = div(a, sub(splat(1), a));
      const delay = clamp(
        sub(div(splat(sampleRate), higher(hertz, splat(1e-3))), lag),
        splat(2),
        splat(<f32>(mask - 8)),
      );
      const past = readPast(INTERPOLATION_CUBIC, ring, mask, time + f, delay, uniform(delay), 0);
      damped = madd(a, sub(damped, past), past);
      const x = read(instance, P.IN_IN, g, f);
      const sane = softLimit(madd(read(instance, P.PARAM_FEEDBACK, g, f), damped, x), BODY_KNEE, BODY_RANGE);
      quiet = v128.any_true(sane) ? 0 : quiet + 1;
      v128.store(ring + ((<usize>((time + f) & mask)) << 4), sane);
      put(instance, P.OUT_OUT, g, f, madd(read(instance, P.PARAM_FEEDFORWARD, g, f), damped, sane));
    }
    store<u32>(state + P.STATE_QUIET, min<u32>(quiet, 0x7fffffff));
    v128.store(state + P.STATE_DAMPED, damped);
  }
  if (resting) rest(instance);
}
