// Corners of waves, band-limited ahead: naive wave plus, for every corner within reach, what a band-limited corner
// differs from a sharp one. Corners ahead are foreseen from the present increment: no latency, and no state beyond the
// phase (after the idea of Brandt 2001, "Hard sync without aliasing", with a linear-phase step).
import { add, at, COMMON, div, higher, madd, mul, ONE, PER_CYCLE, SIGN, splat, sub } from "./simd.as";
import { lookUp, slopeTable, stepTable, STEP_REACH } from "./tables.as";

/** Increments beyond half a cycle a sample have no wave left to correct; limiting them bounds the work. */
const MOST_INCREMENT: f32 = 0.5;
const LEAST_INCREMENT: f32 = 1e-12;

/** A phase as signed cycles, -0.5 … 0.5. */
@inline export function signedCycles(phase: v128): v128 {
  return mul(f32x4.convert_i32x4_s(phase), at(COMMON, PER_CYCLE));
}
/** 1 with the sign of u. */
@inline export function signOf(u: v128): v128 {
  return v128.or(v128.and(u, at(COMMON, SIGN)), at(COMMON, ONE));
}


@inline export function limitedIncrement(increment: v128): v128 {
  return f32x4.pmax(splat(-MOST_INCREMENT), f32x4.pmin(splat(MOST_INCREMENT), increment));
}
/** Samples a cycle. */
@inline export function inverseOf(increment: v128): v128 {
  return div(splat(1), higher(f32x4.abs(increment), splat(LEAST_INCREMENT)));
}

/** How many further corners on either side of the nearest may be within reach. */
@inline export function cornersFor(increment: f32): i32 {
  return <i32>(<f32>STEP_REACH * increment + 0.5);
}
/** As `cornersFor`, of the widest of four lanes. */
@inline export function cornersIn(increment: v128): i32 {
  const size = f32x4.abs(increment);
  // Below this no second corner is near: nearly always.
  if (!v128.any_true(f32x4.ge(size, splat(<f32>0.5 / <f32>STEP_REACH)))) return 0;
  return cornersFor(
    max(
      max(f32x4.extract_lane(size, 0), f32x4.extract_lane(size, 1)),
      max(f32x4.extract_lane(size, 2), f32x4.extract_lane(size, 3)),
    ),
  );
}
/** Largest increment of a row of `frames` vectors, any lane. */
export function widestIncrement(row: usize, frames: u32): f32 {
  let most = f32x4.abs(v128.load(row));
  for (let f: u32 = 1; f < frames; ++f) most = higher(most, f32x4.abs(v128.load(row + (f << 4))));
  return max(
    max(f32x4.extract_lane(most, 0), f32x4.extract_lane(most, 1)),
    max(f32x4.extract_lane(most, 2), f32x4.extract_lane(most, 3)),
  );
}


@inline function isNear(size: v128): bool {
  return v128.any_true(f32x4.lt(size, splat(<f32>STEP_REACH)));
}

/** What a step of 1 from below still lacks around it, over all corners near: sign(u) T(|u| samples), u in cycles. */
@inline export function steps(u: v128, inverse: v128, corners: i32): v128 {
  const size = mul(f32x4.abs(u), inverse);
  let sum = splat(0);
  if (isNear(size)) sum = mul(signOf(u), lookUp(stepTable, size));
  return corners ? add(sum, furtherSteps(u, inverse, corners)) : sum;
}
function furtherSteps(u: v128, inverse: v128, corners: i32): v128 {
  let sum = splat(0);
  for (let k = 1; k <= corners; ++k) {
    const shift = splat(<f32>k);
    sum = add(
      sum,
      sub(
        lookUp(stepTable, mul(f32x4.abs(add(u, shift)), inverse)),
        lookUp(stepTable, mul(f32x4.abs(sub(u, shift)), inverse)),
      ),
    );
  }
  return sum;
}
/** As `steps`, the nearest corner known by its distance in samples (it may be moving). */
@inline export function stepsAt(u: v128, samples: v128, inverse: v128, corners: i32): v128 {
  let sum = splat(0);
  if (isNear(samples)) sum = mul(signOf(u), lookUp(stepTable, samples));
  return corners ? add(sum, furtherSteps(u, inverse, corners)) : sum;
}

/** What a change of slope by 1 a sample adds around it, over all corners near. */
@inline export function slopes(u: v128, inverse: v128, corners: i32): v128 {
  const size = mul(f32x4.abs(u), inverse);
  let sum = splat(0);
  if (isNear(size)) sum = lookUp(slopeTable, size);
  return corners ? add(sum, furtherSlopes(u, inverse, corners)) : sum;
}
function furtherSlopes(u: v128, inverse: v128, corners: i32): v128 {
  let sum = splat(0);
  for (let k = 1; k <= corners; ++k) {
    const shift = splat(<f32>k);
    sum = add(
      sum,
      add(
        lookUp(slopeTable, mul(f32x4.abs(add(u, shift)), inverse)),
        lookUp(slopeTable, mul(f32x4.abs(sub(u, shift)), inverse)),
      ),
    );
  }
  return sum;
}

/** Saw 2p − 1 at signed phase s. */
@inline export function sawAt(s: v128, inverse: v128, corners: i32): v128 {
  const lacking = steps(s, inverse, corners);
  return add(sub(add(s, s), signOf(s)), add(lacking, lacking));
}
/** Triangle, −1 at phase 0 and 1 at one half. `opposite`: the signed phase half a cycle away. */
@inline export function triangleAt(
  s: v128,
  opposite: v128,
  increment: v128,
  inverse: v128,
  corners: i32,
): v128 {
  const rounding = sub(slopes(s, inverse, corners), slopes(opposite, inverse, corners));
  return madd(mul(splat(8), f32x4.abs(increment)), rounding, sub(mul(splat(4), f32x4.abs(s)), splat(1)));
}
