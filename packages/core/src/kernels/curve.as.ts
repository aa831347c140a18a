/** The curve of the contract: f(x) = (1 - e^-kx) / (1 - e^-k), k = 6 curve; a straight line at 0. In 64 bits, for the host. */
export function curveAt(x: f64, curve: f64): f64 {
  const k = 6.0 * curve;
  if (abs<f64>(k) < 1e-6) return x;
  return (1.0 - Math.exp(-k * x)) / (1.0 - Math.exp(-k));
}
