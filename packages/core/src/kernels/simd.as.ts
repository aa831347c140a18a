// Short names for 4-wide float arithmetic, and the vector functions kernels share.
// Errors stated per function were measured against 64-bit references over the whole range (simd.test.ts).

// @ts-ignore: decorator
@inline export function splat(x: f32): v128 {
  return f32x4.splat(x);
}
// @ts-ignore: decorator
@inline export function add(a: v128, b: v128): v128 {
  return f32x4.add(a, b);
}
// @ts-ignore: decorator
@inline export function sub(a: v128, b: v128): v128 {
  return f32x4.sub(a, b);
}
// @ts-ignore: decorator
@inline export function mul(a: v128, b: v128): v128 {
  return f32x4.mul(a, b);
}
// @ts-ignore: decorator
@inline export function div(a: v128, b: v128): v128 {
  return f32x4.div(a, b);
}
// @ts-ignore: decorator
@inline export function lower(a: v128, b: v128): v128 {
  return f32x4.pmin(a, b);
}
// @ts-ignore: decorator
@inline export function higher(a: v128, b: v128): v128 {
  return f32x4.pmax(a, b);
}
/** Limits x; in this order of operands NaN becomes `low`. */
// @ts-ignore: decorator
@inline export function clamp(x: v128, low: v128, high: v128): v128 {
  return f32x4.pmin(high, f32x4.pmax(low, x));
}
// @ts-ignore: decorator
@inline export function select(whenTrue: v128, whenFalse: v128, mask: v128): v128 {
  return v128.bitselect(whenTrue, whenFalse, mask);
}
// @ts-ignore: decorator
@inline export function madd(a: v128, b: v128, c: v128): v128 {
  return f32x4.add(f32x4.mul(a, b), c);
}

/** Dry and wet: exactly the dry at 0 and exactly the wet at 1, whatever the other is. */
// @ts-ignore: decorator
@inline export function mixed(dry: v128, wet: v128, mix: v128): v128 {
  return madd(wet, mix, mul(dry, sub(splat(1), mix)));
}

/** One lane of a vector in memory. */
// @ts-ignore: decorator
@inline export function lane(pointer: usize, index: u32): f32 {
  return load<f32>(pointer + ((index & 3) << 2));
}

/** True where all four lanes hold the same bits. */
// @ts-ignore: decorator
@inline export function uniform(x: v128): bool {
  return i32x4.all_true(i32x4.eq(x, v128.shuffle<i32>(x, x, 0, 0, 0, 0)));
}

/**
 * Constants of the vector functions, read with load32_splat: engines build a v128.const anew from two 64-bit immediates
 * at every use and in every round of a loop, a broadcasting load costs next to nothing.
 */
const EXP2: usize = memory.data<f32>(
  [
    -126, 126, 12582912, 1.5252734e-5, 1.540353e-4, 1.3333558e-3, 9.6181291e-3, 5.5504109e-2, 2.4022651e-1,
    6.9314718e-1, 1,
  ],
  16,
);
const EXPONENT_BIAS: usize = memory.data<i32>([127], 16);
const SINE: usize = memory.data<f32>(
  [
    0.5, 6.283185307, 1.6059044e-10, -2.5052108e-8, 2.7557319e-6, -1.984127e-4, 8.3333333e-3, -1.6666667e-1,
    1, -0,
  ],
  16,
);

/** A constant from a table in memory, in all lanes. */
// @ts-ignore: decorator
@inline export function at(table: usize, index: usize): v128 {
  return v128.load32_splat(table + (index << 2));
}

/** Constants kernels keep in registers over a loop: 1, -0 (the sign bit), 0.5, 1 / 2^32, 1 / 2^31. */
export const COMMON: usize = memory.data<f32>(
  [1, -0, 0.5, 2.3283064365386963e-10, 4.656612873077393e-10],
  16,
);
export const ONE: usize = 0,
  SIGN: usize = 1,
  HALF: usize = 2,
  PER_CYCLE: usize = 3,
  PER_HALF_CYCLE: usize = 4;

/** 2^x, |x| < 126. Relative error below 2e-7. Taylor series of e^(f ln 2), |f| <= 1/2. */
// @ts-ignore: decorator
@inline export function exp2(x: v128): v128 {
  const limited = clamp(x, at(EXP2, 0), at(EXP2, 1));
  // Adding 1.5 * 2^23 rounds to the nearest whole number and leaves it in the low bits: far cheaper than converting.
  const shifted = add(limited, at(EXP2, 2));
  const f = sub(limited, sub(shifted, at(EXP2, 2)));
  let y = madd(at(EXP2, 3), f, at(EXP2, 4));
  y = madd(y, f, at(EXP2, 5));
  y = madd(y, f, at(EXP2, 6));
  y = madd(y, f, at(EXP2, 7));
  y = madd(y, f, at(EXP2, 8));
  y = madd(y, f, at(EXP2, 9));
  y = madd(y, f, at(EXP2, 10));
  return mul(y, i32x4.shl(i32x4.add(shifted, at(EXPONENT_BIAS, 0)), 23));
}

/** log2(x), x > 0 (smaller than 1e-38 counts as that). Absolute error below 2e-7 near 1, 4e-7 else. */
export function log2(x: v128): v128 {
  const bits = higher(x, splat(1.2e-38));
  // Bring the mantissa to [sqrt(1/2), sqrt 2): log2 m = 2/ln2 * atanh((m-1)/(m+1)).
  const shifted = i32x4.sub(bits, i32x4.splat(0x3f3504f3));
  const exponent = i32x4.shr_s(shifted, 23);
  const mantissa = i32x4.sub(bits, i32x4.shl(exponent, 23));
  const s = div(sub(mantissa, splat(1)), add(mantissa, splat(1)));
  const s2 = mul(s, s);
  let y = splat(0.32059899);
  y = madd(y, s2, splat(0.41219858));
  y = madd(y, s2, splat(0.57707802));
  y = madd(y, s2, splat(0.96179669));
  y = madd(y, s2, splat(2.88539008));
  return madd(y, s, f32x4.convert_i32x4_s(exponent));
}

/** sin 2 pi p, p in cycles within -0.5..0.5. Absolute error below 2e-7. */
// @ts-ignore: decorator
@inline export function sineOfCycles(p: v128): v128 {
  // Fold to a quarter cycle, where the odd Taylor series of degree 13 is exact to 32 bits.
  const sign = v128.and(p, at(SINE, 9));
  const a = v128.andnot(p, at(SINE, 9));
  const q = v128.or(lower(a, sub(at(SINE, 0), a)), sign);
  const x = mul(q, at(SINE, 1));
  const x2 = mul(x, x);
  let y = madd(at(SINE, 2), x2, at(SINE, 3));
  y = madd(y, x2, at(SINE, 4));
  y = madd(y, x2, at(SINE, 5));
  y = madd(y, x2, at(SINE, 6));
  y = madd(y, x2, at(SINE, 7));
  y = madd(y, x2, at(SINE, 8));
  return mul(x, y);
}

/** tanh x. Absolute error below 3e-7. */
export function hyperbolicTangent(x: v128): v128 {
  const e = exp2(mul(clamp(x, splat(-12), splat(12)), splat(2.885390082)));
  return sub(splat(1), div(splat(2), add(e, splat(1))));
}

/** Per-lane hash: the one counter-based random generator. Bits in, well mixed bits out. */
// @ts-ignore: decorator
@inline export function mixBits(x: v128): v128 {
  let h = v128.xor(x, i32x4.shr_u(x, 16));
  h = i32x4.mul(h, i32x4.splat(0x7feb352d));
  h = v128.xor(h, i32x4.shr_u(h, 15));
  h = i32x4.mul(h, i32x4.splat(0x846ca68b));
  return v128.xor(h, i32x4.shr_u(h, 16));
}

/** Uniform -1..1 from hashed bits. */
// @ts-ignore: decorator
@inline export function bipolar(bits: v128): v128 {
  return mul(f32x4.convert_i32x4_s(bits), splat(4.6566129e-10));
}
