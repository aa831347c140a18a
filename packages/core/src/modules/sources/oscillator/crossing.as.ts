// When, between two samples, a wave rose above one half: from the samples up to now.
//
// Waves are looked at through the filter ((1 + 1/z)/2)^2, which takes the ripple near the Nyquist frequency off that a
// band-limited edge a few samples ahead sends before it. It moves every crossing by the same single sample.
import { STEP_POINTS, STEP_REACH, stepTable } from "../../../kernels/tables.as";

const THRESHOLD: f32 = 0.5;
/** Band-limited steps are told from smooth waves by how well either foretells two older samples. */
const TRUST: f32 = 0.25;

/** A band-limited step of 1 so looked at, t samples after its middle. */
function stepAt(t: f32): f32 {
  return seen(plainStepAt(t), plainStepAt(t - 1), plainStepAt(t - 2));
}
function plainStepAt(t: f32): f32 {
  const x = min<f32>(abs<f32>(t) * <f32>STEP_POINTS, <f32>(STEP_REACH * STEP_POINTS));
  const i = <i32>x,
    p = stepTable + (i << 2),
    lacking = load<f32>(p) + (load<f32>(p, 4) - load<f32>(p)) * (x - <f32>i);
  return t < 0 ? lacking : 1 - lacking;
}

/** The cubic through the last four samples, `age` samples ago. */
@inline function cubicAt(age: f32, y0: f32, y1: f32, y2: f32, y3: f32): f32 {
  // Newton's backward differences.
  const d1 = y0 - y1,
    d2 = y0 - 2 * y1 + y2,
    d3 = y0 - 3 * y1 + 3 * y2 - y3,
    t = -age;
  return y0 + t * (d1 + (t + 1) * (0.5 * d2 + (t + 2) * ((1.0 / 6.0) * d3)));
}


@inline export function seen(now: f32, before: f32, earlier: f32): f32 {
  return 0.25 * (now + earlier) + 0.5 * before;
}

/**
 * Samples since a wave (as `seen`) that is above the threshold now (y0) and was not one sample ago (y1) crossed it: 0 … 1.
 * A band-limited edge follows from its middle, found by the
 * ratio of its last two rises; anything smooth from a cubic.
 */
export function crossingAge(y0: f32, y1: f32, y2: f32, y3: f32, y4: f32): f32 {
  const rise = y0 - y1,
    ratio = (y1 - y2) / rise;
  const smooth = abs<f32>(y0 - 4 * y1 + 6 * y2 - 4 * y3 + y4);
  let low: f32 = -0.5,
    high: f32 = 4;
  for (let i = 0; i < 24; ++i) {
    const t: f32 = 0.5 * (low + high),
      s1: f32 = stepAt(t - 1);
    if (s1 - stepAt(t - 2) < ratio * (stepAt(t) - s1)) low = t;
    else high = t;
  }
  const middle: f32 = 0.5 * (low + high),
    height = rise / (stepAt(middle) - stepAt(middle - 1)),
    floor0 = y0 - height * stepAt(middle);
  const sharp = max<f32>(
    abs<f32>(y3 - floor0 - height * stepAt(middle - 3)),
    abs<f32>(y4 - floor0 - height * stepAt(middle - 4)),
  );
  low = 0;
  high = 1;
  const isEdge = sharp < TRUST * smooth;
  for (let i = 0; i < 24; ++i) {
    const age: f32 = 0.5 * (low + high),
      y = isEdge ? floor0 + height * stepAt(middle - age) : cubicAt(age, y0, y1, y2, y3);
    if (y > THRESHOLD) low = age;
    else high = age;
  }
  return 0.5 * (low + high);
}
