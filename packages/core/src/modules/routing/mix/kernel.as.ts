import * as P from "../../../generated/mix.as";
import { FIT, GROUP_BYTES, UNFIT } from "../../../kernels/abi";
import { Signal } from "../../../kernels/signal.as";
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

export function process(m: P.Module, frame: u32, frames: u32): void {
  const out = m.outOut,
    inverse = m.outInverse;
  let resting = true;
  for (let g: u32 = 0, groups = m.groups; g < groups; ++g) {
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

/** What `processFrame` reads: how many inputs bring something, then each with its amount, from `FIRST` on. */
const COUNT: usize = 0,
  FIRST: usize = 16;

/** Fit for running frame by frame while amounts and offset are set and stand still. */
export function processReady(m: P.Module, frames: u32): u32 {
  if (!m.outOut.isWanted || m.outInverse.isWanted || !m.offset.isFlat) return UNFIT;
  const groups = m.groups,
    lines = m.state(0).linesAt;
  let count: u32 = 0;
  for (let n: u32 = 0; n < INPUTS; ++n) {
    const input = m.signal(P.IN_IN1 + (n << 2)),
      amount = m.signal(P.PARAM_AMOUNT1 + (n << 2));
    if (!input.isUniform(groups) || !amount.isFlat) return UNFIT;
    if (!input.isCabled && input.isConstant(0) && !v128.any_true(input.at(0, 0))) continue;
    store<u32>(lines + FIRST + (count << 3), <u32>input.address);
    store<u32>(lines + FIRST + (count << 3), <u32>amount.address, 4);
    ++count;
  }
  store<u32>(lines, count, COUNT);
  return FIT;
}

// @ts-ignore: decorator
@inline function lineAt(lines: usize, at: usize): Signal {
  return changetype<Signal>(<usize>load<u32>(lines + FIRST + at));
}

/** One frame of `count` inputs, added in the same order as `sum`. */
// @ts-ignore: decorator
@inline function frameOf(count: u32, m: P.Module, f: u32): void {
  const lines = m.state(0).linesAt,
    offset = m.offset.at(0, 0);
  let x0: usize = 0,
    x1: usize = 0,
    x2: usize = 0,
    x3: usize = 0,
    s0: usize = 0,
    s1: usize = 0,
    s2: usize = 0,
    s3: usize = 0;
  let a0 = offset,
    a1 = offset,
    a2 = offset,
    a3 = offset;
  if (count > 0) {
    const input = lineAt(lines, 0);
    x0 = input.row(0, f);
    s0 = input.stride;
    a0 = lineAt(lines, 4).at(0, 0);
  }
  if (count > 1) {
    const input = lineAt(lines, 8);
    x1 = input.row(0, f);
    s1 = input.stride;
    a1 = lineAt(lines, 12).at(0, 0);
  }
  if (count > 2) {
    const input = lineAt(lines, 16);
    x2 = input.row(0, f);
    s2 = input.stride;
    a2 = lineAt(lines, 20).at(0, 0);
  }
  if (count > 3) {
    const input = lineAt(lines, 24);
    x3 = input.row(0, f);
    s3 = input.stride;
    a3 = lineAt(lines, 28).at(0, 0);
  }
  let out = m.outOut.start(0) + (f << 4);
  for (const end = out + m.groups * GROUP_BYTES; out < end; out += GROUP_BYTES) {
    let y = offset;
    if (count > 0) {
      y = madd(v128.load(x0), a0, y);
      x0 += s0;
    }
    if (count > 1) {
      y = madd(v128.load(x1), a1, y);
      x1 += s1;
    }
    if (count > 2) {
      y = madd(v128.load(x2), a2, y);
      x2 += s2;
    }
    if (count > 3) {
      y = madd(v128.load(x3), a3, y);
      x3 += s3;
    }
    v128.store(out, y);
  }
}

export function processFrame(m: P.Module, f: u32): void {
  const count = load<u32>(m.state(0).linesAt, COUNT);
  if (count == 2) frameOf(2, m, f);
  else if (count == 1) frameOf(1, m, f);
  else if (count == 3) frameOf(3, m, f);
  else if (count == 4) frameOf(4, m, f);
  else frameOf(0, m, f);
}
