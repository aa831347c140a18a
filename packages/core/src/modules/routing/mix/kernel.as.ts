import * as P from "../../../generated/mix.as";
import {
  groupsOf,
  isConstant,
  isWanted,
  pointerTo,
  rest,
  scratch,
  signalAt,
  strideOf,
  writeConstant,
  writeTo,
} from "../../../kernels/instance.as";
import { madd } from "../../../kernels/simd.as";

const INPUTS: u32 = 4;

/** Offset plus amount × input for `frames`; inputs that are constant zero are left out. */
function sum(instance: usize, g: u32, frame: u32, frames: u32, row: usize): void {
  const offset = signalAt(instance, P.PARAM_OFFSET);
  let p = pointerTo(offset, g, frame);
  const stride = strideOf(offset, g);
  for (let f: u32 = 0; f < frames; ++f) v128.store(row + (f << 4), v128.load(p + f * stride));
  for (let n: u32 = 0; n < INPUTS; ++n) {
    const input = signalAt(instance, P.IN_IN1 + (n << 2)),
      amount = signalAt(instance, P.PARAM_AMOUNT1 + (n << 2));
    let x = pointerTo(input, g, frame),
      a = pointerTo(amount, g, frame);
    const xs = strideOf(input, g),
      as = strideOf(amount, g);
    if (xs == 0 && !v128.any_true(v128.load(x))) continue;
    for (let f: u32 = 0; f < frames; ++f) {
      v128.store(row + (f << 4), madd(v128.load(x), v128.load(a), v128.load(row + (f << 4))));
      x += xs;
      a += as;
    }
  }
}

/** One frame of the sum, in a register: what runs inside loops without a delay. Adds in the same order as `sum`. */
function sumOfFrame(instance: usize, g: u32, frame: u32): v128 {
  let y = v128.load(pointerTo(signalAt(instance, P.PARAM_OFFSET), g, frame));
  for (let n: u32 = 0; n < INPUTS; ++n) {
    const input = signalAt(instance, P.IN_IN1 + (n << 2));
    const x = v128.load(pointerTo(input, g, frame));
    if (isConstant(input, g) && !v128.any_true(x)) continue;
    y = madd(x, v128.load(pointerTo(signalAt(instance, P.PARAM_AMOUNT1 + (n << 2)), g, frame)), y);
  }
  return y;
}

// @ts-ignore: decorator
@inline function allConstant(instance: usize, g: u32): bool {
  let constant = isConstant(signalAt(instance, P.PARAM_OFFSET), g);
  for (let n: u32 = 0; n < INPUTS; ++n) {
    constant =
      constant &&
      isConstant(signalAt(instance, P.IN_IN1 + (n << 2)), g) &&
      isConstant(signalAt(instance, P.PARAM_AMOUNT1 + (n << 2)), g);
  }
  return constant;
}

export function process(instance: usize, frame: u32, frames: u32): void {
  const out = signalAt(instance, P.OUT_OUT),
    inverse = signalAt(instance, P.OUT_INVERSE);
  let resting = true;
  for (let g: u32 = 0, groups = groupsOf(instance); g < groups; ++g) {
    if (frames == 1) {
      resting = false;
      const y = sumOfFrame(instance, g, frame);
      if (isWanted(out)) v128.store(writeTo(out, g, frame), y);
      if (isWanted(inverse)) v128.store(writeTo(inverse, g, frame), f32x4.neg(y));
      continue;
    }
    const constant = allConstant(instance, g);
    if (!constant) resting = false;
    const row = constant || !isWanted(out) ? scratch(0) : writeTo(out, g, frame);
    sum(instance, g, frame, constant ? 1 : frames, row);
    if (constant) {
      const value = v128.load(row);
      writeConstant(out, g, frame, frames, value);
      writeConstant(inverse, g, frame, frames, f32x4.neg(value));
    } else if (isWanted(inverse)) {
      const p = writeTo(inverse, g, frame);
      for (let f: u32 = 0; f < frames; ++f) v128.store(p + (f << 4), f32x4.neg(v128.load(row + (f << 4))));
    }
  }
  if (resting) rest(instance);
}
