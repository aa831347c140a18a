import * as P from "../../../generated/mix.as";
import { scratch } from "../../../kernels/scratch.as";
import { madd } from "../../../kernels/simd.as";

const INPUTS: u32 = 4;
/** Four pointers and steps of the inputs that bring something, then of their amounts, then the offset's. */
const ROWS: usize = memory.data(72, 16);
const AMOUNTS: usize = 32,
  OFFSET: usize = 64;

/** Finds the inputs that bring something in a group, in order; how many those are. */
function gather(m: P.Module, g: u32, frame: u32): u32 {
  let count: u32 = 0;
  for (let n: u32 = 0; n < INPUTS; ++n) {
    const input = m.signal(P.IN_IN1 + (n << 2)),
      x = input.row(g, frame);
    if (input.isConstant(g) && !v128.any_true(v128.load(x))) continue;
    const amount = m.signal(P.PARAM_AMOUNT1 + (n << 2)),
      at = ROWS + (count << 3);
    store<u32>(at, x);
    store<u32>(at, input.step(g), 4);
    store<u32>(at, amount.row(g, frame), AMOUNTS);
    store<u32>(at, amount.step(g), AMOUNTS + 4);
    ++count;
  }
  store<u32>(ROWS, m.offset.row(g, frame), OFFSET);
  store<u32>(ROWS, m.offset.step(g), OFFSET + 4);
  return count;
}

// @ts-ignore: decorator
@inline function pointer(n: u32, kind: usize): usize {
  return load<u32>(ROWS + (n << 3) + kind);
}

/** Offset plus amount × input, of `count` inputs; with amounts and offset that stand still, where `fixed`. */
// @ts-ignore: decorator
@inline function sum(count: u32, fixed: bool, out: usize, frames: u32): void {
  let x0 = pointer(0, 0),
    x1 = pointer(1, 0),
    x2 = pointer(2, 0),
    x3 = pointer(3, 0);
  const s0 = pointer(0, 4),
    s1 = pointer(1, 4),
    s2 = pointer(2, 4),
    s3 = pointer(3, 4);
  let a0 = pointer(0, AMOUNTS),
    a1 = pointer(1, AMOUNTS),
    a2 = pointer(2, AMOUNTS),
    a3 = pointer(3, AMOUNTS),
    o = pointer(0, OFFSET);
  const t0 = pointer(0, AMOUNTS + 4),
    t1 = pointer(1, AMOUNTS + 4),
    t2 = pointer(2, AMOUNTS + 4),
    t3 = pointer(3, AMOUNTS + 4),
    t = pointer(0, OFFSET + 4);
  let offset = v128.load(o),
    g0 = v128.load(a0),
    g1 = count > 1 ? v128.load(a1) : g0,
    g2 = count > 2 ? v128.load(a2) : g0,
    g3 = count > 3 ? v128.load(a3) : g0;
  for (let end = out + (frames << 4); out < end; out += 16) {
    if (!fixed) {
      offset = v128.load(o);
      o += t;
      g0 = v128.load(a0);
      a0 += t0;
      if (count > 1) g1 = v128.load(a1);
      a1 += t1;
      if (count > 2) g2 = v128.load(a2);
      a2 += t2;
      if (count > 3) g3 = v128.load(a3);
      a3 += t3;
    }
    let y = madd(v128.load(x0), g0, offset);
    x0 += s0;
    if (count > 1) {
      y = madd(v128.load(x1), g1, y);
      x1 += s1;
    }
    if (count > 2) {
      y = madd(v128.load(x2), g2, y);
      x2 += s2;
    }
    if (count > 3) {
      y = madd(v128.load(x3), g3, y);
      x3 += s3;
    }
    v128.store(out, y);
  }
}

/** The sum of the inputs found, whether a signal moves or not and however many there are: always in the same order. */
function sumOf(count: u32, out: usize, frames: u32): void {
  let moves = pointer(0, OFFSET + 4);
  for (let n: u32 = 0; n < count; ++n) moves |= pointer(n, AMOUNTS + 4);
  if (count == 0) {
    const o = pointer(0, OFFSET),
      step = pointer(0, OFFSET + 4);
    for (let f: u32 = 0; f < frames; ++f) v128.store(out + (f << 4), v128.load(o + f * step));
  } else if (moves) {
    if (count == 1) sum(1, false, out, frames);
    else if (count == 2) sum(2, false, out, frames);
    else if (count == 3) sum(3, false, out, frames);
    else sum(4, false, out, frames);
  } else if (count == 1) sum(1, true, out, frames);
  else if (count == 2) sum(2, true, out, frames);
  else if (count == 3) sum(3, true, out, frames);
  else sum(4, true, out, frames);
}

/** One frame of the sum, in a register: what runs inside loops without a delay. Adds in the same order as `sum`. */
function sumOfFrame(m: P.Module, g: u32, frame: u32): v128 {
  let y = m.offset.at(g, frame);
  for (let n: u32 = 0; n < INPUTS; ++n) {
    const input = m.signal(P.IN_IN1 + (n << 2));
    const x = input.at(g, frame);
    if (input.isConstant(g) && !v128.any_true(x)) continue;
    y = madd(x, m.signal(P.PARAM_AMOUNT1 + (n << 2)).at(g, frame), y);
  }
  return y;
}

export function process(m: P.Module, frame: u32, frames: u32): void {
  const out = m.outOut,
    inverse = m.outInverse;
  let resting = true;
  for (let g: u32 = 0, groups = m.groups; g < groups; ++g) {
    if (frames == 1) {
      resting = false;
      const y = sumOfFrame(m, g, frame);
      out.put(g, frame, y);
      inverse.put(g, frame, f32x4.neg(y));
      continue;
    }
    const constant = m.settled(g);
    if (!constant) resting = false;
    const row = constant || !out.isWanted ? scratch(0) : out.write(g, frame);
    sumOf(gather(m, g, frame), row, constant ? 1 : frames);
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
