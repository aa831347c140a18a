// The modified Bessel function of order 0, which Kaiser windows are made of.

/** Terms of its power series in (x / 2)^2: enough for arguments up to 12. */
const TERMS: i32 = 36;
/** 1 / (k!)^2. */
const series: usize = memory.data(36 * 8, 16);
let isReady = false;

function prepare(): void {
  let term = 1.0;
  store<f64>(series, 1);
  for (let k = 1; k < TERMS; ++k) {
    term /= <f64>k * <f64>k;
    store<f64>(series + ((<usize>k) << 3), term);
  }
  isReady = true;
}

/** For 0…12. */
export function besselI0(x: f64): f64 {
  if (!isReady) prepare();
  const z = 0.25 * x * x,
    z2 = z * z;
  // Even and odd terms beside one another.
  let even = 0.0,
    odd = 0.0;
  for (let p = series + (TERMS - 2) * 8; p >= series; p -= 16) {
    even = even * z2 + load<f64>(p);
    odd = odd * z2 + load<f64>(p, 8);
  }
  return even + z * odd;
}
