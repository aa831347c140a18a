// The two heads of a pitch shifter, the sound they read, and where they jump to.
import { totalOf } from "../../../kernels/lanes.as";
import { fourBytes, readFour, writeFour } from "../../../kernels/fours.as";
import { add, madd, mul, splat, sub } from "../../../kernels/simd.as";

/** The search compares so much sound at the most, in fourth samples and in samples. */
const COARSE: u32 = 240,
  FINE: u32 = 1024;
/** Samples around the coarse place that are tried. */
const AROUND: i32 = 6;
const FLOOR: f32 = 1e-12;

/** Sound of a voice: pairs of left and right, the same as it came in, and every fourth sample of both together. */
@unmanaged
export class Sound {
  pairs: usize;
  direct: usize;
  fourths: usize;
  mask: u32;
  directMask: u32;
  fourthMask: u32;

  /** In the memory of a voice; `sizes`: samples of the three rings. */
  static of(memory_: usize, sizes: usize): Sound {
    const s = changetype<Sound>(SOUND),
      pairs = <u32>load<f32>(sizes),
      direct = <u32>load<f32>(sizes, 4),
      fourths = <u32>load<f32>(sizes, 8);
    s.pairs = memory_;
    s.direct = memory_ + ((<usize>pairs) << 3);
    s.fourths = s.direct + ((<usize>direct) << 3);
    s.mask = pairs - 1;
    s.directMask = direct - 1;
    s.fourthMask = fourths - 1;
    return s;
  }


  @inline at(frame: u32): usize {
    return this.pairs + ((<usize>(frame & this.mask)) << 3);
  }


  @inline write(now: u32, x: v128): void {
    v128.store64_lane(this.at(now), x, 0);
    if ((now & 3) == 3) this.gather(now);
  }
  /** The last four frames of both sides as one. */
  gather(now: u32): void {
    let sum: f32 = 0;
    for (let n: u32 = 0; n < 4; ++n) sum += this.middle(now - n);
    writeFour(this.fourths, this.fourthMask, now >> 2, 1, splat(sum));
  }


  @inline middle(frame: u32): f32 {
    const p = this.at(frame);
    return load<f32>(p) + load<f32>(p, 4);
  }


  @inline writeDirect(now: u32, x: v128): void {
    v128.store64_lane(this.direct + ((<usize>(now & this.directMask)) << 3), x, 0);
  }


  @inline readDirect(now: u32, back: u32): v128 {
    return v128.load64_zero(this.direct + ((<usize>((now - back) & this.directMask)) << 3));
  }
}
const SOUND: usize = memory.data(32, 16);


@unmanaged
export class Heads {
  /** Delays in frames of the head and of the one it takes over from. */
  delay: f64;
  old: f64;
  /** Frames of the fade that are left, and its pace. */
  left: u32;
  perFrame: f32;
  /** How alike what both read is, 0…1. */
  alike: f32;
  quiet: u32;
  isStarted: u32;

  jumpTo(delay: f64, fade: f64, alike: f32): void {
    this.old = this.delay;
    this.delay = delay;
    this.left = <u32>max(nearest(fade), 8);
    this.perFrame = 1 / <f32>this.left;
    this.alike = alike;
  }
}

/** Both sides between samples: six-point, fifth-order Lagrange. Exact on a sample. */
export function readPair(s: Sound, now: u32, delay: f64): v128 {
  const whole = <u32>delay,
    f = splat(<f32>(delay - <f64>whole)),
    frame = now - whole;
  const x2 = v128.load64_zero(s.at(frame));
  if (!v128.any_true(f)) return x2;
  const x0 = v128.load64_zero(s.at(frame + 2)),
    x1 = v128.load64_zero(s.at(frame + 1)),
    x3 = v128.load64_zero(s.at(frame - 1)),
    x4 = v128.load64_zero(s.at(frame - 2)),
    x5 = v128.load64_zero(s.at(frame - 3));
  // Newton form with nodes in the order 0, 1, -1, 2, -2, 3.
  const one = sub(x3, x2),
    two = mul(splat(0.5), add(sub(x3, x2), sub(x1, x2))),
    three = mul(splat(1.0 / 6.0), sub(sub(x4, x1), mul(splat(3), sub(x3, x2)))),
    four = mul(splat(1.0 / 24.0), add(sub(add(x0, x4), mul(splat(4), add(x1, x3))), mul(splat(6), x2))),
    five = mul(
      splat(1.0 / 120.0),
      add(sub(x5, x0), sub(mul(splat(5), sub(x1, x4)), mul(splat(10), sub(x2, x3)))),
    );
  let y = madd(five, add(f, splat(2)), four);
  y = madd(y, sub(f, splat(2)), three);
  y = madd(y, add(f, splat(1)), two);
  y = madd(y, sub(f, splat(1)), one);
  return madd(y, f, x2);
}

/** Sum of products of fourth samples that end at two places, and the energy of the second. */
function compareFourths(s: Sound, a: u32, b: u32, energy: usize): f32 {
  let sum = splat(0),
    size = splat(0);
  for (let n: u32 = 0; n < COARSE; n += 4) {
    const x = readFour(s.fourths, s.fourthMask, a, COARSE - n),
      y = readFour(s.fourths, s.fourthMask, b, COARSE - n);
    sum = madd(x, y, sum);
    size = madd(y, y, size);
  }
  store<f32>(energy, totalOf(size));
  return totalOf(sum);
}
const ENERGY: usize = memory.data(16, 16);

/** How alike the sound before two places is, sample by sample: −1…1. */
function alikeness(s: Sound, a: u32, b: u32): f32 {
  let sum: f32 = 0,
    one: f32 = 0,
    other: f32 = 0;
  for (let n: u32 = 1; n <= FINE; ++n) {
    const x = s.middle(a - n),
      y = s.middle(b - n);
    sum += x * y;
    one += x * x;
    other += y * y;
  }
  return sum / (sqrt<f32>(one * other) + FLOOR);
}

/**
 * Jumps about `jump` frames, back (1) or forth (-1), to where the sound before is most alike: between half of it and one
 * and a half.
 */
export function splice(h: Heads, s: Sound, now: u32, way: i32, jump: f64, fade: f64): void {
  const here = now - <u32>h.delay,
    least = (<i32>(0.5 * jump)) >> 2,
    room = way < 0 ? <i32>(h.delay - 8) : <i32>(<f64>s.mask - h.delay - 1100),
    most = max<i32>(min<i32>(<i32>(1.5 * jump), room) >> 2, least + 1);
  let best: f32 = -1,
    at = least;
  for (let lag = least; lag <= most; ++lag) {
    const c = compareFourths(s, here >> 2, (here >> 2) - <u32>(way * lag), ENERGY),
      score: f32 = (c * abs(c)) / (load<f32>(ENERGY) + FLOOR);
    if (score > best) {
      best = score;
      at = lag;
    }
  }
  // Between samples: the top of a parabola through the best and its neighbours.
  let top: f32 = -2,
    lag = at << 2;
  for (let n = (at << 2) - AROUND; n <= (at << 2) + AROUND; ++n) {
    const c = alikeness(s, here, here - <u32>(way * n));
    if (c <= top) continue;
    top = c;
    lag = n;
  }
  const before = alikeness(s, here, here - <u32>(way * (lag - 1))),
    after = alikeness(s, here, here - <u32>(way * (lag + 1))),
    bend: f32 = before - 2 * top + after;
  const between: f32 = bend < 0 ? min<f32>(max<f32>((0.5 * (before - after)) / bend, -1), 1) : 0;
  const delay = h.delay + <f64>way * (<f64>lag + <f64>between);
  h.jumpTo(max(delay, 4), fade, min<f32>(max<f32>(top, 0), 1));
}
