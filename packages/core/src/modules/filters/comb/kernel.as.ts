// Comb: w = x + b D(w), y = w + c D(w), D a delay of one period through a one-pole of unit gain at 0 Hz. Outputs add up
// to x + (b + c) … ; the loop's delay is shortened by what the one-pole adds at the comb's own frequency.
import * as P from "../../../generated/comb.as";
import { sampleRate, time } from "../../../kernels/time.as";
import { INTERPOLATION_CUBIC, maskOf, readPast, slotOf } from "../../../kernels/delays.as";
import { BODY_KNEE, BODY_RANGE, softLimit } from "../../../kernels/limits.as";
import { clamp, div, exp2, higher, madd, mul, splat, sub, uniform } from "../../../kernels/simd.as";

export function process(m: P.Module, frame: u32, frames: u32): void {
  const input = m.in;
  const bytes = m.auxBytes / m.groups,
    mask = maskOf(bytes),
    tracks = m.pitch.isCabled;
  let resting = true;
  for (let g: u32 = 0, groups = m.groups; g < groups; ++g) {
    const state = m.state(g),
      ring = m.aux + <usize>g * bytes;
    const silent = input.isConstant(g) && !v128.any_true(v128.load(input.row(g, frame)));
    // Quiet counts frames of nothing: after as many as the ring holds there is nothing left in it.
    let quiet = load<u32>(state.quietAt);
    if (silent && quiet > mask && m.settled(g)) {
      m.outOut.fill(g, frame, frames, splat(0));
      continue;
    }
    resting = false;
    let damped = state.damped;
    for (let f = frame, end = frame + frames; f < end; ++f) {
      let hertz = m.frequency.at(g, f);
      if (tracks) hertz = mul(hertz, exp2(mul(m.tracking.at(g, f), m.pitch.at(g, f))));
      const a = mul(m.damping.at(g, f), splat(0.9));
      // Phase delay of (1 - a) / (1 - a z) near its own frequency, for frequencies far below Nyquist: a / (1 - a).
      const lag = div(a, sub(splat(1), a));
      const delay = clamp(
        sub(div(splat(sampleRate), higher(hertz, splat(1e-3))), lag),
        splat(2),
        splat(<f32>(mask - 8)),
      );
      const past = readPast(INTERPOLATION_CUBIC, ring, mask, time + f, delay, uniform(delay), 0);
      damped = madd(a, sub(damped, past), past);
      const x = m.in.at(g, f);
      const sane = softLimit(madd(m.feedback.at(g, f), damped, x), BODY_KNEE, BODY_RANGE);
      quiet = v128.any_true(sane) ? 0 : quiet + 1;
      v128.store(slotOf(ring, mask, time + f), sane);
      m.outOut.put(g, f, madd(m.feedforward.at(g, f), damped, sane));
    }
    store<u32>(state.quietAt, min<u32>(quiet, 0x7fffffff));
    state.damped = damped;
  }
  if (resting) m.rest();
}
