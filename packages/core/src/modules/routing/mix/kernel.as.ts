import * as P from "../../../generated/mix.as";
import { scratch } from "../../../kernels/scratch.as";
import { madd } from "../../../kernels/simd.as";

const INPUTS: u32 = 4;

/** Offset plus amount × input for `frames`; inputs that are constant zero are left out. */
function sum(m: P.Module, g: u32, frame: u32, frames: u32, row: usize): void {
  const offset = m.offset;
  let p = offset.row(g, frame);
  const stride = offset.step(g);
  for (let f: u32 = 0; f < frames; ++f) v128.store(row + (f << 4), v128.load(p + f * stride));
  for (let n: u32 = 0; n < INPUTS; ++n) {
    const input = m.signal(P.IN_IN1 + (n << 2)),
      amount = m.signal(P.PARAM_AMOUNT1 + (n << 2));
    let x = input.row(g, frame),
      a = amount.row(g, frame);
    const xs = input.step(g),
      as = amount.step(g);
    if (xs == 0 && !v128.any_true(v128.load(x))) continue;
    for (let f: u32 = 0; f < frames; ++f) {
      v128.store(row + (f << 4), madd(v128.load(x), v128.load(a), v128.load(row + (f << 4))));
      x += xs;
      a += as;
    }
  }
}

/** One frame of the sum, in a register: what runs inside loops without a delay. Adds in the same order as `sum`. */
function sumOfFrame(m: P.Module, g: u32, frame: u32): v128 {
  let y = v128.load(m.offset.row(g, frame));
  for (let n: u32 = 0; n < INPUTS; ++n) {
    const input = m.signal(P.IN_IN1 + (n << 2));
    const x = v128.load(input.row(g, frame));
    if (input.isConstant(g) && !v128.any_true(x)) continue;
    y = madd(x, v128.load(m.signal(P.PARAM_AMOUNT1 + (n << 2)).row(g, frame)), y);
  }
  return y;
}


@inline function allConstant(m: P.Module, g: u32): bool {
  let constant = m.offset.isConstant(g);
  for (let n: u32 = 0; n < INPUTS; ++n) {
    constant =
      constant &&
      m.signal(P.IN_IN1 + (n << 2)).isConstant(g) &&
      m.signal(P.PARAM_AMOUNT1 + (n << 2)).isConstant(g);
  }
  return constant;
}

export function process(m: P.Module, frame: u32, frames: u32): void {
  const out = m.outOut,
    inverse = m.outInverse;
  let resting = true;
  for (let g: u32 = 0, groups = m.groups; g < groups; ++g) {
    if (frames == 1) {
      resting = false;
      const y = sumOfFrame(m, g, frame);
      if (out.isWanted) v128.store(out.write(g, frame), y);
      if (inverse.isWanted) v128.store(inverse.write(g, frame), f32x4.neg(y));
      continue;
    }
    const constant = allConstant(m, g);
    if (!constant) resting = false;
    const row = constant || !out.isWanted ? scratch(0) : out.write(g, frame);
    sum(m, g, frame, constant ? 1 : frames, row);
    if (constant) {
      const value = v128.load(row);
      out.fill(g, frame, frames, value);
      inverse.fill(g, frame, frames, f32x4.neg(value));
    } else if (inverse.isWanted) {
      const p = inverse.write(g, frame);
      for (let f: u32 = 0; f < frames; ++f) v128.store(p + (f << 4), f32x4.neg(v128.load(row + (f << 4))));
    }
  }
  if (resting) m.rest();
}
