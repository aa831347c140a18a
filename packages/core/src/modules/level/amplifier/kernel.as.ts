import * as P from "../../../generated/amplifier.as";
import { FIT, GROUP_BYTES, UNFIT } from "../../../kernels/abi";
import { exp2, higher, mul, splat, sub } from "../../../kernels/simd.as";
import { gainOfConstantLevel, gainOfLevel } from "../../../kernels/levels.as";

/** Exponential response: 60 dB from nearly closed to open, (2^(10 cv) - 1) / 1023, exactly 0 at 0 and 1 at 1. */
@inline function exponential(cv: v128): v128 {
  return mul(sub(exp2(mul(splat(10), cv)), splat(1)), splat(1.0 / 1023.0));
}

/** input × gain, and × what opens it where `opened`. A gain that stands still is in `gain`, one that moves in a row. */
// @ts-ignore: decorator
@inline function amplify(
  moves: bool,
  opened: bool,
  curved: bool,
  out: usize,
  x: usize,
  xs: usize,
  gain: v128,
  l: usize,
  c: usize,
  cs: usize,
  frames: u32,
): void {
  for (let end = out + (frames << 4); out < end; out += 16) {
    if (moves) {
      gain = gainOfLevel(v128.load(l));
      l += 16;
    }
    let y = mul(v128.load(x), gain);
    x += xs;
    if (opened) {
      const amount = higher(v128.load(c), splat(0));
      c += cs;
      y = mul(y, curved ? exponential(amount) : amount);
    }
    v128.store(out, y);
  }
}

export function process(m: P.Module, frame: u32, frames: u32): void {
  const input = m.in,
    cv = m.cv,
    level = m.level;
  const out = m.outOut;
  const opened = cv.isCabled,
    curved = m.response == P.RESPONSE_EXPONENTIAL;
  let resting = true;
  let gain = splat(1),
    gainFrom: usize = 0;
  for (let g: u32 = 0, groups = m.groups; g < groups; ++g) {
    const x = input.row(g, frame),
      c = cv.row(g, frame),
      l = level.row(g, frame);
    const xs = input.step(g),
      cs = cv.step(g),
      ls = level.step(g);
    const closed = opened && cs == 0 && !v128.any_true(f32x4.gt(v128.load(c), splat(0)));
    const silent = xs == 0 && !v128.any_true(v128.load(x));
    if (closed || silent) {
      out.fill(g, frame, frames, splat(0));
      if (!m.settled(g)) resting = false;
      continue;
    }
    resting = false;
    const p = out.write(g, frame);
    // A set level is one vector for all groups: worked out once.
    if (ls == 0 && l != gainFrom) gain = gainOfConstantLevel(v128.load(l));
    gainFrom = ls == 0 ? l : 0;
    if (ls != 0) {
      if (!opened) amplify(true, false, false, p, x, xs, gain, l, c, cs, frames);
      else if (curved) amplify(true, true, true, p, x, xs, gain, l, c, cs, frames);
      else amplify(true, true, false, p, x, xs, gain, l, c, cs, frames);
    } else if (!opened) amplify(false, false, false, p, x, xs, gain, l, c, cs, frames);
    else if (curved) amplify(false, true, true, p, x, xs, gain, l, c, cs, frames);
    else amplify(false, true, false, p, x, xs, gain, l, c, cs, frames);
  }
  if (resting) m.rest();
}

/** Fit for running frame by frame while its level is set and stands still, and sound and opening may come. */
export function processReady(m: P.Module, frames: u32): u32 {
  const groups = m.groups,
    cv = m.cv;
  if (!m.level.isFlat || !m.outOut.isWanted || !m.in.isUniform(groups) || m.in.isConstant(0)) return UNFIT;
  if (cv.isCabled && (!cv.isUniform(groups) || cv.isConstant(0))) return UNFIT;
  m.state(0).gain = gainOfConstantLevel(m.level.at(0, 0));
  return FIT;
}

export function processFrame(m: P.Module, f: u32): void {
  const input = m.in,
    xs = input.stride,
    gain = m.state(0).gain;
  let x = input.row(0, f),
    out = m.outOut.start(0) + (f << 4);
  const end = out + m.groups * GROUP_BYTES;
  if (!m.cv.isCabled) {
    for (; out < end; out += GROUP_BYTES, x += xs) v128.store(out, mul(v128.load(x), gain));
    return;
  }
  const cs = m.cv.stride,
    curved = m.response == P.RESPONSE_EXPONENTIAL;
  let c = m.cv.row(0, f);
  for (; out < end; out += GROUP_BYTES, x += xs, c += cs) {
    const amount = higher(v128.load(c), splat(0));
    v128.store(out, mul(mul(v128.load(x), gain), curved ? exponential(amount) : amount));
  }
}
