// What the lines of a room lose: four lines at a time, frame after frame.
import { madd, mul, splat, sub, add } from "../../../kernels/simd.as";
import { Room } from "./room.as";
import { Stretch } from "./stretch.as";

/** A shelf of third order for the highs. */
export function shelveHighs(room: Room, state: usize, factors: usize, at: usize, s: Stretch): void {
  const t = splat(room.highTangent),
    share = splat(room.highTangent / (1 + room.highTangent)),
    damp = splat(1 / (1 + room.highTangent * (room.highTangent + 1))),
    lessOne = v128.load(factors),
    lessTwo = v128.load(factors, 64);
  let pole = v128.load(state),
    one = v128.load(state, 16),
    two = v128.load(state, 32);
  for (let c: u32 = 0; c < s.chunks; ++c)
    for (let p = at + (c << 8), end = p + ((<usize>s.count) << 4); p < end; p += 16) {
      const x = v128.load(p);
      const v = mul(sub(x, pole), share),
        below = add(v, pole);
      pole = add(below, v);
      const y = madd(lessOne, sub(x, below), x);
      const band = mul(damp, madd(t, sub(y, two), one)),
        under = madd(t, band, two);
      one = sub(add(band, band), one);
      two = sub(add(under, under), two);
      v128.store(p, madd(lessTwo, sub(sub(y, band), under), madd(lessOne, band, y)));
    }
  v128.store(state, pole);
  v128.store(state, one, 16);
  v128.store(state, two, 32);
}

/** One of second order for the lows. */
export function shelveLows(room: Room, state: usize, factors: usize, at: usize, s: Stretch): void {
  const t = splat(room.lowTangent),
    damp = splat(1 / (1 + room.lowTangent * (room.lowTangent + 1.4142135))),
    lessOne = v128.load(factors),
    lessTwo = v128.load(factors, 64);
  let one = v128.load(state),
    two = v128.load(state, 16);
  for (let c: u32 = 0; c < s.chunks; ++c)
    for (let p = at + (c << 8), end = p + ((<usize>s.count) << 4); p < end; p += 16) {
      const x = v128.load(p);
      const band = mul(damp, madd(t, sub(x, two), one)),
        under = madd(t, band, two);
      one = sub(add(band, band), one);
      two = sub(add(under, under), two);
      v128.store(p, madd(lessTwo, under, madd(lessOne, band, x)));
    }
  v128.store(state, one);
  v128.store(state, two, 16);
}

/** Their gains. */
export function lose(gains: usize, at: usize, s: Stretch): void {
  const gain = v128.load(gains),
    step = v128.load(gains, 64);
  for (let c: u32 = 0; c < s.chunks; ++c)
    for (let f: u32 = 0; f < 4; ++f) {
      const p = at + (c << 8) + (f << 4);
      v128.store(p, mul(madd(step, splat(<f32>(s.j + (c << 2) + f)), gain), v128.load(p)));
    }
}
