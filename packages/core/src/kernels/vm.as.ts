/* eslint max-lines: ["error", 500] -- one machine: every word of formulas */
// The formula machine: runs a program of vector operations over a block, or frame by frame where it hears its own past.
import { C4 } from "./phase.as";
import * as V from "./vm";
import { Instance } from "./instance.as";
import { Signal } from "./signal.as";
import { sampleRate, time, frameNow, framePeriod } from "./time.as";
import { DB_PER_OCTAVE, LOG2E } from "./levels.as";
import {
  add,
  bipolar,
  clamp,
  div,
  exp2,
  higher,
  hyperbolicTangent,
  log2,
  lower,
  madd,
  mixBits,
  mul,
  select,
  sineOfCycles,
  splat,
  sub,
} from "./simd.as";

const HEAD: usize = 32;
const INSTRUCTION: usize = 32;
const ROW: usize = 2048;
/** Registers of the running program, one block each; nothing in them outlives a call. */
const registers: usize = memory.data(112 * 2048, 16);
/** Pointers and strides of an instruction's three operands. */
const specials: usize = memory.data(3 * 2048, 16);

const LN2: f32 = 0.69314718;


@inline function truth(mask: v128): v128 {
  return v128.and(mask, splat(1));
}


@inline function isOn(x: v128): v128 {
  return f32x4.ne(x, splat(0));
}
/** Cycles of an angle in radians, within -0.5..0.5. */
@inline function cyclesOf(x: v128): v128 {
  const c = mul(x, splat(0.15915494309));
  return sub(c, f32x4.nearest(c));
}


@inline function modulo(a: v128, b: v128): v128 {
  const ok = isOn(b);
  return v128.and(sub(a, mul(b, f32x4.floor(div(a, select(b, splat(1), ok))))), ok);
}
/** 0 where x <= 0. */
@inline function logarithm2(x: v128): v128 {
  return v128.and(log2(x), f32x4.gt(x, splat(0)));
}

/** a^b: of a negative a only with whole b; 0 where there is no value. */
function power(a: v128, b: v128): v128 {
  const size = f32x4.abs(a);
  const y = exp2(clamp(mul(b, logarithm2(size)), splat(-126), splat(126)));
  const whole = f32x4.eq(f32x4.nearest(b), b);
  const half = mul(b, splat(0.5));
  const odd = v128.and(whole, f32x4.ne(f32x4.nearest(half), half));
  const negative = f32x4.lt(a, splat(0));
  const signed = v128.xor(y, v128.and(v128.and(negative, odd), i32x4.splat(<i32>0x80000000)));
  const nothing = v128.or(v128.and(negative, v128.not(whole)), f32x4.eq(size, splat(0)));
  const zeroToZero = v128.and(f32x4.eq(b, splat(0)), f32x4.eq(size, splat(0)));
  return select(splat(1), v128.andnot(signed, nothing), zeroToZero);
}

/** atan x, error below 2e-6: |x| > 1 through pi/2 - atan(1/x), odd polynomial of degree 15 (Chebyshev fit, Abramowitz & Stegun 4.4.49). */
function arctangent(x: v128): v128 {
  const size = f32x4.abs(x);
  const large = f32x4.gt(size, splat(1));
  const z = select(div(splat(1), higher(size, splat(1e-30))), size, large);
  const z2 = mul(z, z);
  let y = madd(splat(-0.004054058), z2, splat(0.0218612288));
  y = madd(y, z2, splat(-0.0559098861));
  y = madd(y, z2, splat(0.0964200441));
  y = madd(y, z2, splat(-0.1390853351));
  y = madd(y, z2, splat(0.1994653599));
  y = madd(y, z2, splat(-0.3332985605));
  y = mul(madd(y, z2, splat(0.9999993329)), z);
  y = select(sub(splat(1.5707963268), y), y, large);
  return v128.or(y, v128.and(x, i32x4.splat(<i32>0x80000000)));
}


@inline function smoothStep(low: v128, high: v128, x: v128): v128 {
  const width = sub(high, low);
  const ok = isOn(width);
  const t = select(
    clamp(div(sub(x, low), select(width, splat(1), ok)), splat(0), splat(1)),
    truth(f32x4.ge(x, low)),
    ok,
  );
  return mul(mul(t, t), sub(splat(3), add(t, t)));
}

function evaluate(code: u32, a: v128, b: v128, c: v128, seeds: v128, now: u32): v128 {
  switch (code) {
    case V.COPY:
      return a;
    case V.ADD:
      return add(a, b);
    case V.SUBTRACT:
      return sub(a, b);
    case V.MULTIPLY:
      return mul(a, b);
    case V.DIVIDE: {
      const ok = isOn(b);
      return v128.and(div(a, select(b, splat(1), ok)), ok);
    }
    case V.MODULO:
      return modulo(a, b);
    case V.POWER:
      return power(a, b);
    case V.SQUARE:
      return mul(a, a);
    case V.LESS:
      return truth(f32x4.lt(a, b));
    case V.GREATER:
      return truth(f32x4.gt(a, b));
    case V.AT_MOST:
      return truth(f32x4.le(a, b));
    case V.AT_LEAST:
      return truth(f32x4.ge(a, b));
    case V.EQUAL:
      return truth(f32x4.eq(a, b));
    case V.DIFFERENT:
      return truth(f32x4.ne(a, b));
    case V.AND:
      return truth(v128.and(isOn(a), isOn(b)));
    case V.OR:
      return truth(v128.or(isOn(a), isOn(b)));
    case V.NOT:
      return truth(f32x4.eq(a, splat(0)));
    case V.NEGATE:
      return f32x4.neg(a);
    case V.CHOOSE:
      return select(b, c, isOn(a));
    case V.SINE:
      return sineOfCycles(cyclesOf(a));
    case V.COSINE: {
      const p = add(cyclesOf(a), splat(0.25));
      return sineOfCycles(sub(p, f32x4.nearest(p)));
    }
    case V.TANGENT: {
      const p = cyclesOf(a),
        q = add(p, splat(0.25));
      const under = sineOfCycles(sub(q, f32x4.nearest(q)));
      const ok = isOn(under);
      return v128.and(div(sineOfCycles(p), select(under, splat(1), ok)), ok);
    }
    case V.ARCTANGENT:
      return arctangent(a);
    case V.EXPONENTIAL: {
      const e = mul(a, splat(LOG2E));
      return v128.and(exp2(e), f32x4.lt(e, splat(126)));
    }
    case V.LOGARITHM:
      return mul(logarithm2(a), splat(LN2));
    case V.LOGARITHM2:
      return logarithm2(a);
    case V.ROOT:
      return f32x4.sqrt(higher(splat(0), a));
    case V.SIZE:
      return f32x4.abs(a);
    case V.SIGNUM:
      return sub(truth(f32x4.gt(a, splat(0))), truth(f32x4.lt(a, splat(0))));
    case V.FLOOR:
      return f32x4.floor(a);
    case V.CEILING:
      return f32x4.ceil(a);
    case V.ROUND:
      return f32x4.floor(add(a, splat(0.5)));
    case V.FRACTION:
      return sub(a, f32x4.floor(a));
    case V.LEAST:
      return lower(a, b);
    case V.MOST:
      return higher(a, b);
    case V.CLAMP:
      return higher(b, lower(a, c));
    case V.BLEND:
      return madd(sub(b, a), c, a);
    case V.STEP:
      return truth(f32x4.ge(b, a));
    case V.SMOOTH:
      return smoothStep(a, b, c);
    case V.SATURATE:
      return hyperbolicTangent(a);
    case V.NOISE:
      return bipolar(
        mixBits(
          v128.xor(
            i32x4.mul(i32x4.splat(<i32>now), i32x4.splat(<i32>0x9e3779b1)),
            i32x4.add(seeds, i32x4.mul(a, i32x4.splat(0x85ebca6b))),
          ),
        ),
      );
    case V.HERTZ:
      return mul(exp2(a), splat(C4));
    case V.PITCH:
      return logarithm2(mul(a, splat(1 / C4)));
    case V.DECIBELS:
      return mul(logarithm2(a), splat(DB_PER_OCTAVE));
    case V.NOTE:
      return div(sub(a, splat(60)), splat(12));
    default:
      return splat(0);
  }
}

/** Finite, or 0. */
@inline function finite(x: v128): v128 {
  return v128.and(x, f32x4.lt(f32x4.abs(x), splat(3e38)));
}

/** Where an operand is read. */
function operandAt(m: Instance, g: u32, frame: u32, word: u32, constants: usize, previous: usize): usize {
  const kind = word >> 16,
    index = <usize>(word & 0xffff);
  if (kind == V.OPERAND_REGISTER) return registers + index * ROW;
  if (kind == V.OPERAND_SPECIAL) return specials + index * ROW;
  if (kind == V.OPERAND_INPUT) {
    return m.signal(index).row(g, frame);
  }
  return kind == V.OPERAND_CONSTANT ? constants + (index << 4) : previous + (index << 4);
}

/** How far the next frame of an operand is. */
function operandStep(m: Instance, g: u32, word: u32): usize {
  const kind = word >> 16;
  if (kind == V.OPERAND_INPUT) return m.signal(<usize>(word & 0xffff)).step(g);
  return kind == V.OPERAND_REGISTER || kind == V.OPERAND_SPECIAL ? 16 : 0;
}

/** Runs the program once over `frames` frames of a group. */
function runOnce(m: Instance, g: u32, frame: u32, frames: u32, previous: usize): void {
  const program = m.table;
  const count = load<u32>(program);
  const constants = program + HEAD + <usize>count * INSTRUCTION;
  const seeds = m.laneSeeds(g);
  const lanes = i32x4.add(i32x4.splat(<i32>(g << 2)), i32x4(0, 1, 2, 3));
  const voices = f32x4.convert_i32x4_s(m.sideCount == 2 ? i32x4.shr_s(lanes, 1) : lanes);
  for (let f: u32 = 0; f < frames; ++f) {
    v128.store(specials + (f << 4), splat(<f32>((frameNow + <f64>(frame + f)) * framePeriod)));
    v128.store(specials + ROW + (f << 4), splat(sampleRate));
    v128.store(specials + 2 * ROW + (f << 4), voices);
  }
  let at = program + HEAD;
  for (let i: u32 = 0; i < count; ++i, at += INSTRUCTION) {
    const code = load<u32>(at);
    let out = registers + <usize>load<u32>(at, 4) * ROW;
    let a = operandAt(m, g, frame, load<u32>(at, 8), constants, previous);
    const sa = operandStep(m, g, load<u32>(at, 8));
    let b = operandAt(m, g, frame, load<u32>(at, 12), constants, previous);
    const sb = operandStep(m, g, load<u32>(at, 12));
    let c = operandAt(m, g, frame, load<u32>(at, 16), constants, previous);
    const sc = operandStep(m, g, load<u32>(at, 16));
    for (let f: u32 = 0; f < frames; ++f) {
      v128.store(
        out,
        finite(evaluate(code, v128.load(a), v128.load(b), v128.load(c), seeds, time + frame + f)),
      );
      out += 16;
      a += sa;
      b += sb;
      c += sc;
    }
  }
}

/** True when nothing in a program depends on time. */
function isTimeless(program: usize): bool {
  const count = load<u32>(program);
  let at = program + HEAD;
  for (let i: u32 = 0; i < count; ++i, at += INSTRUCTION) {
    if (load<u32>(at) == V.NOISE) return false;
    for (let o: usize = 8; o <= 16; o += 4) if (load<u32>(at + o) == V.OPERAND_SPECIAL << 16) return false;
  }
  return true;
}

/** Runs a formula; `x` and `y` are its outputs, the same one where there is only one. Its last values are all its state. */
export function runFormula(m: Instance, frame: u32, frames: u32, x: Signal, y: Signal): void {
  const program = m.table;
  if (!program) return;
  const remembers = load<u32>(program, 8) != 0;
  const names = load<u32>(program, 12);
  const xRow = registers + <usize>load<u32>(program, 16) * ROW,
    yIndex = load<u32>(program, 20);
  const hasX = load<u32>(program, 16) != V.NO_REGISTER,
    hasY = y != x && yIndex != V.NO_REGISTER;
  const timeless = !remembers && isTimeless(program);
  let resting = timeless;
  for (let g: u32 = 0, groups = m.groups; g < groups; ++g) {
    const last = m.stateAt(g);
    const constant = timeless && m.settled(g);
    if (!constant) resting = false;
    const length: u32 = remembers || constant ? 1 : frames;
    for (let f: u32 = 0, end: u32 = constant ? 1 : frames; f < end; f += length) {
      runOnce(m, g, frame + f, length, last);
      if (remembers)
        for (let n: u32 = 0; n < names; ++n)
          v128.store(last + (n << 4), v128.load(registers + <usize>n * ROW));
      x.putRow(g, frame + f, length, hasX ? xRow : 0);
      if (y != x) y.putRow(g, frame + f, length, hasY ? registers + <usize>yIndex * ROW : 0);
    }
    if (constant) m.holdOutputs(g, frame, frames);
  }
  if (resting) m.rest();
}
