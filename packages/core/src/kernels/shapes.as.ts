// Curves of saturation with their integrals, for shaping with little aliasing: the mean of the curve between two
// samples, (F(b) - F(a)) / (b - a) (Parker, Zavalishin & Le Bivic, DAFx 2016), at the oversampled rate.
import { LOG2E } from "./levels.as";
import { add, div, exp2, higher, log2, lower, madd, mul, select, sineOfCycles, splat, sub } from "./simd.as";

export const SOFT: i32 = 0,
  HARD: i32 = 1,
  TUBE: i32 = 2,
  DIODE: i32 = 3,
  SINE: i32 = 4,
  RECTIFY: i32 = 5,
  FOLD: i32 = 6;

const LN2: f32 = 0.69314718;
/** How far a tube goes down, where it goes up to 1. */
const TUBE_LOW: f32 = 0.6;
/** Below this step the quotient loses its digits; the curve in the middle is as good. */
const LEAST_STEP: f32 = 0.004;


@inline function exponential(x: v128): v128 {
  return exp2(mul(x, splat(LOG2E)));
}


@inline function signed(size: v128, x: v128): v128 {
  return v128.or(size, v128.and(x, i32x4.splat(<i32>0x80000000)));
}

/** The curve itself. All but rectify have slope 1 at 0 (sine pi/2); soft, hard and sine end at ±1. */
@inline export function curve(kind: i32, u: v128): v128 {
  if (kind == SOFT) return div(u, f32x4.sqrt(madd(u, u, splat(1))));
  if (kind == HARD) return lower(higher(u, splat(-1)), splat(1));
  if (kind == TUBE) {
    const up = sub(splat(1), exponential(f32x4.neg(f32x4.abs(u)))),
      down = mul(splat(-TUBE_LOW), sub(splat(1), exponential(mul(f32x4.abs(u), splat(-1 / TUBE_LOW)))));
    return select(up, down, f32x4.ge(u, splat(0)));
  }
  if (kind == DIODE) return signed(mul(log2(add(splat(1), f32x4.abs(u))), splat(LN2)), u);
  if (kind == SINE) {
    const c = mul(u, splat(0.25));
    return sineOfCycles(sub(c, f32x4.nearest(c)));
  }
  if (kind == RECTIFY) return f32x4.abs(div(u, f32x4.sqrt(madd(u, u, splat(1)))));
  const p = sub(u, mul(splat(4), f32x4.nearest(mul(u, splat(0.25))))),
    size = f32x4.abs(p);
  return select(p, signed(sub(splat(2), size), p), f32x4.le(size, splat(1)));
}

/** sqrt(1 + u^2) - 1, without losing small ones. */
@inline function rootIntegral(u: v128): v128 {
  const square = mul(u, u);
  return div(square, add(splat(1), f32x4.sqrt(add(square, splat(1)))));
}

/** Integral of the curve from 0. */
@inline export function integral(kind: i32, u: v128): v128 {
  const size = f32x4.abs(u);
  if (kind == SOFT) return rootIntegral(u);
  if (kind == HARD)
    return select(mul(splat(0.5), mul(u, u)), sub(size, splat(0.5)), f32x4.le(size, splat(1)));
  if (kind == TUBE) {
    const up = add(size, sub(exponential(f32x4.neg(size)), splat(1)));
    const down = mul(
      splat(TUBE_LOW),
      add(size, mul(splat(TUBE_LOW), sub(exponential(mul(size, splat(-1 / TUBE_LOW))), splat(1)))),
    );
    return select(up, down, f32x4.ge(u, splat(0)));
  }
  if (kind == DIODE) {
    const whole = add(splat(1), size);
    return sub(mul(whole, mul(log2(whole), splat(LN2))), size);
  }
  if (kind == SINE) {
    // (1 - cos(pi u / 2)) 2 / pi = sin^2(pi u / 4) 4 / pi.
    const c = mul(u, splat(0.125)),
      s = sineOfCycles(sub(c, f32x4.nearest(c)));
    return mul(mul(s, s), splat(1.2732395447));
  }
  if (kind == RECTIFY) return signed(rootIntegral(u), u);
  const p = sub(u, mul(splat(4), f32x4.nearest(mul(u, splat(0.25))))),
    far = f32x4.abs(p),
    rest = sub(splat(2), far);
  return select(
    mul(splat(0.5), mul(p, p)),
    sub(splat(1), mul(splat(0.5), mul(rest, rest))),
    f32x4.le(far, splat(1)),
  );
}

/** Mean of the curve between the last sample and this one; `state`: the last sample and its integral. */
@inline export function shapeBetween(kind: i32, state: usize, u: v128): v128 {
  const before = v128.load(state),
    whole = integral(kind, u);
  const step = sub(u, before),
    small = f32x4.lt(f32x4.abs(step), splat(LEAST_STEP));
  const quotient = div(sub(whole, v128.load(state, 16)), select(splat(1), step, small));
  v128.store(state, u);
  v128.store(state, whole, 16);
  return select(curve(kind, mul(splat(0.5), add(u, before))), quotient, small);
}

/** The integral at the last sample is told by the curve that goes on from it: it may have been another. */
@inline function goOn(kind: i32, state: usize): void {
  v128.store(state, integral(kind, v128.load(state)), 16);
}

/** Shapes a row in place; the kind is chosen outside the loop. */
export function shapeRow(kind: i32, state: usize, row: usize, count: u32): void {
  const end = row + ((<usize>count) << 4);
  switch (kind) {
    case SOFT:
      goOn(SOFT, state);
      for (let p = row; p < end; p += 16) v128.store(p, shapeBetween(SOFT, state, v128.load(p)));
      break;
    case HARD:
      goOn(HARD, state);
      for (let p = row; p < end; p += 16) v128.store(p, shapeBetween(HARD, state, v128.load(p)));
      break;
    case TUBE:
      goOn(TUBE, state);
      for (let p = row; p < end; p += 16) v128.store(p, shapeBetween(TUBE, state, v128.load(p)));
      break;
    case DIODE:
      goOn(DIODE, state);
      for (let p = row; p < end; p += 16) v128.store(p, shapeBetween(DIODE, state, v128.load(p)));
      break;
    case SINE:
      goOn(SINE, state);
      for (let p = row; p < end; p += 16) v128.store(p, shapeBetween(SINE, state, v128.load(p)));
      break;
    case RECTIFY:
      goOn(RECTIFY, state);
      for (let p = row; p < end; p += 16) v128.store(p, shapeBetween(RECTIFY, state, v128.load(p)));
      break;
    default:
      goOn(FOLD, state);
      for (let p = row; p < end; p += 16) v128.store(p, shapeBetween(FOLD, state, v128.load(p)));
  }
}

/** The curve of a kind known only while running, for zero-latency use inside loops. */
export function curveNow(kind: i32, u: v128): v128 {
  switch (kind) {
    case SOFT:
      return curve(SOFT, u);
    case HARD:
      return curve(HARD, u);
    case TUBE:
      return curve(TUBE, u);
    case DIODE:
      return curve(DIODE, u);
    case SINE:
      return curve(SINE, u);
    case RECTIFY:
      return curve(RECTIFY, u);
    default:
      return curve(FOLD, u);
  }
}
