import * as P from "../../../generated/strike.as";
import { rising, unmoved } from "../../../kernels/edges.as";
import { sampleRate } from "../../../kernels/time.as";
import { isEmpty } from "../../../kernels/quiet.as";
import { tiltCoefficient, tilted } from "../../../kernels/onepole.as";
import { add, bipolar, div, higher, mixBits, mul, sineOfCycles, splat, sub } from "../../../kernels/simd.as";

export function idle(state: P.State, trigger: v128): bool {
  return isEmpty(state.address, 1) && !v128.any_true(state.position) && unmoved(state.beforeAt, trigger);
}

export function compute(
  m: P.Module,
  g: u32,
  state: P.State,
  out: P.Outputs,
  trigger: v128,
  velocity: v128,
  length: v128,
  level: v128,
  tone: v128,
): void {
  const rises = rising(state.beforeAt, trigger);
  // Frames since the hit, plus one; 0 at rest.
  let position = v128.bitselect(splat(1), state.position, rises);
  const given = m.velocity.isCabled ? velocity : splat(1),
    struck = v128.bitselect(given, state.velocity, rises);
  const count = i32x4.add(state.count, i32x4.splat(1));
  state.velocity = struck;
  state.count = count;
  const kind = m.kind;
  let frames = higher(mul(length, splat(sampleRate / 1000)), splat(2));
  // A soft blow of a mallet lasts up to twice as long.
  if (kind == P.KIND_MALLET) frames = mul(frames, sub(splat(2), struck));
  const x = div(sub(position, splat(1)), frames),
    on = v128.and(f32x4.gt(position, splat(0)), f32x4.lt(x, splat(1)));
  const half = sineOfCycles(mul(x, splat(0.5)));
  let y = half;
  if (kind == P.KIND_MALLET) y = mul(half, half);
  if (kind == P.KIND_NOISE)
    y = mul(
      bipolar(mixBits(v128.xor(m.laneSeeds(g), i32x4.mul(count, i32x4.splat(0x9e3779b1))))),
      sub(splat(1), x),
    );
  y = v128.and(mul(mul(y, struck), level), on);
  out.out = tilted(state.tiltAt, y, tone, splat(tiltCoefficient()));
  state.position = v128.and(add(position, splat(1)), on);
}
