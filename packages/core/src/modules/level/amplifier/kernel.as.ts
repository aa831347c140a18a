import * as P from "../../../generated/amplifier.as";
import { exp2, higher, mul, splat, sub } from "../../../kernels/simd.as";
import { gainOfConstantLevel, gainOfLevel } from "../../../kernels/levels.as";

/** Exponential response: 60 dB from nearly closed to open, (2^(10 cv) - 1) / 1023, exactly 0 at 0 and 1 at 1. */
@inline function exponential(cv: v128): v128 {
  return mul(sub(exp2(mul(splat(10), cv)), splat(1)), splat(1.0 / 1023.0));
}

export function process(m: P.Module, frame: u32, frames: u32): void {
  const input = m.in,
    cv = m.cv,
    level = m.level;
  const out = m.outOut;
  const open = !cv.isCabled;
  const curved = m.response == P.RESPONSE_EXPONENTIAL;
  let resting = true;
  let gain = splat(1),
    gainFrom: usize = 0;
  for (let g: u32 = 0, groups = m.groups; g < groups; ++g) {
    let x = input.row(g, frame),
      c = cv.row(g, frame),
      l = level.row(g, frame);
    const xs = input.step(g),
      cs = cv.step(g),
      ls = level.step(g);
    const closed = !open && cs == 0 && !v128.any_true(f32x4.gt(v128.load(c), splat(0)));
    const silent = xs == 0 && !v128.any_true(v128.load(x));
    if (closed || silent) {
      out.fill(g, frame, frames, splat(0));
      if (!m.settled(g)) resting = false;
      continue;
    }
    resting = false;
    const p = out.write(g, frame);
    // A set level is one vector for all groups: worked out once.
    if (l != gainFrom || ls != 0) gain = gainOfConstantLevel(v128.load(l));
    gainFrom = l;
    for (let f: u32 = 0; f < frames; ++f) {
      if (ls != 0) gain = gainOfLevel(v128.load(l));
      let y = mul(v128.load(x), gain);
      if (!open) {
        const amount = higher(v128.load(c), splat(0));
        y = mul(y, curved ? exponential(amount) : amount);
      }
      v128.store(p + (f << 4), y);
      x += xs;
      c += cs;
      l += ls;
    }
  }
  if (resting) m.rest();
}
