// String: a delay of one period, a damping filter of three taps (b, 1 - 2b, b), whose delay is one sample at every
// frequency, two all-passes for stiffness, whose delay at the string's own pitch is worked out and taken off, and a gain
// that makes the fundamental fall by 60 dB in the decay time (Jaffe & Smith, "Extensions of the Karplus-Strong
// plucked-string algorithm", 1983). Where it is plucked is heard by taking off what passed there.
import * as P from "../../../generated/string.as";
import { scratch } from "../../../kernels/scratch.as";
import { sampleRate, time } from "../../../kernels/time.as";
import {
  INTERPOLATION_LINEAR,
  INTERPOLATION_SPLINE,
  maskOf,
  readPast,
  slotOf,
} from "../../../kernels/delays.as";
import { softLimit } from "../../../kernels/limits.as";
import { rising, unmoved } from "../../../kernels/edges.as";
import { DECAY_OCTAVES } from "../../../kernels/levels.as";
import { C4 } from "../../../kernels/phase.as";
import {
  add,
  bipolar,
  clamp,
  div,
  exp2,
  higher,
  lower,
  madd,
  mixBits,
  mul,
  sineOfCycles,
  splat,
  sub,
  uniform,
} from "../../../kernels/simd.as";

const STRINGS: u32 = 4;
const PLUCK: f32 = 0.6;
const GREATEST: f32 = 1000;
/**
 * What runs along a string bends softly beyond this. A blow at excite is taken without what is far below the string's
 * pitch, which would only bend it, and stronger for short strings, as a blow of some milliseconds falls with the square
 * of the frequency: 1 + (f / BRIGHT_HERTZ)^2. KNEE + RANGE twice, at the pluck's place and back, is below +3 dBFS.
 */
const KNEE: f32 = 0.5,
  RANGE: f32 = 0.2,
  BRIGHT_HERTZ: f32 = 650;
/** What a coupled string takes in is as small as what it loses: a partial both share then grows to about 1.5 times the coupling. */
const COUPLING: f32 = 4;
/** Two all-passes each at most this strong. */
const MOST_STIFF: f32 = -0.62;
/** Full damping: half of a three-tap mean, which nulls Nyquist. */
const MOST_DAMPING: f32 = 0.25;

/** What belongs to one string at its present pitch. */
@unmanaged
class Tuning {
  delay: v128;
  gain: v128;
  side: v128;
  stiff: v128;
  period: v128;
}
const TUNING_BYTES: usize = 80;

/** atan(x) / (2 pi) for x >= 0, to 1e-7 cycles: reduced by the half-angle twice, then a series. */
function arcCycles(x: v128): v128 {
  const one = splat(1);
  const h = div(x, add(one, f32x4.sqrt(madd(x, x, one)))),
    q = div(h, add(one, f32x4.sqrt(madd(h, h, one)))),
    q2 = mul(q, q);
  let y = madd(splat(-1.0 / 11.0), q2, splat(1.0 / 9.0));
  y = madd(y, q2, splat(-1.0 / 7.0));
  y = madd(y, q2, splat(0.2));
  y = madd(y, q2, splat(-1.0 / 3.0));
  y = mul(madd(y, q2, one), q);
  return mul(y, splat(4 / 6.2831853072));
}

/** Sets what belongs to a string `octaves` above C4. */
function tune(
  string: Tuning,
  octaves: v128,
  decaySeconds: v128,
  damping: v128,
  stiffness: v128,
  longest: v128,
): void {
  const hertz = mul(exp2(octaves), splat(C4));
  const period = clamp(div(splat(sampleRate), hertz), splat(4), longest);
  const share = div(splat(1), period);
  const side = mul(damping, splat(MOST_DAMPING)),
    stiff = mul(stiffness, splat(MOST_STIFF));
  const s = sineOfCycles(mul(share, splat(0.5))),
    quarter = sub(splat(0.25), share);
  const cosine = sineOfCycles(quarter);
  // Phase delay of (a + z) / (1 + a z) at the pitch: 1 - (2 / w) atan(-a sin w / (1 + a cos w)) … in cycles.
  const over = mul(f32x4.neg(stiff), sineOfCycles(share)),
    under = madd(stiff, cosine, splat(1));
  const lag = madd(mul(arcCycles(div(over, under)), splat(2)), period, splat(1));
  string.delay = clamp(sub(sub(period, splat(1)), add(lag, lag)), splat(1), longest);
  // The three taps let the fundamental through by 1 - 4 b sin^2(w / 2); the rest of its decay is the loop's gain.
  const through = sub(splat(1), mul(mul(splat(4), side), mul(s, s)));
  const fall = exp2(div(mul(splat(DECAY_OCTAVES), period), mul(decaySeconds, splat(sampleRate))));
  string.gain = lower(div(fall, through), splat(0.99999));
  string.side = side;
  string.stiff = stiff;
  string.period = period;
}

/** A blow as a string takes it. */
@inline function blow(state: P.State, period: v128, x: v128): v128 {
  const share = div(splat(1), period),
    pace = div(share, add(share, splat(0.3))),
    low = state.blow,
    next = madd(sub(x, low), pace, low);
  state.blow = next;
  const height = mul(share, splat(sampleRate / BRIGHT_HERTZ));
  return mul(sub(x, next), madd(height, height, splat(1)));
}

/** One sample of a string's loop: what comes back, damped and stiffened. */
@inline function loopOf(state: P.State, tuning: Tuning, string: u32, past: v128): v128 {
  const one = state.oneAt + ((<usize>string) << 4),
    two = state.twoAt + ((<usize>string) << 4);
  const x1 = v128.load(one),
    x2 = v128.load(two);
  v128.store(two, x1);
  v128.store(one, past);
  const side = tuning.side,
    stiff = tuning.stiff;
  let y = madd(side, add(past, x2), mul(sub(splat(1), add(side, side)), x1));
  // Without stiffness each is a delay of one sample.
  let at = state.stiffAt + ((<usize>string) << 6);
  for (let n = 0; n < 2; ++n) {
    const z = madd(stiff, sub(y, v128.load(at, 16)), v128.load(at));
    v128.store(at, y);
    v128.store(at, z, 16);
    y = z;
    at += 32;
  }
  return mul(y, tuning.gain);
}

export function process(m: P.Module, frame: u32, frames: u32): void {
  const coupled = <u32>m.coupled,
    strings = coupled + 1;
  const bytes = m.auxBytes / m.groups,
    ringBytes = bytes / strings,
    mask = maskOf(ringBytes);
  const longest = splat(<f32>(mask - 140)),
    pitch = m.pitch,
    excite = m.excite,
    gate = m.gate;
  let resting = true;
  for (let g: u32 = 0, groups = m.groups; g < groups; ++g) {
    const state = m.state(g),
      rings = m.aux + <usize>g * bytes,
      seeds = m.laneSeeds(g);
    let quiet = load<u32>(state.quietAt);
    if (
      quiet > mask &&
      m.settled(g) &&
      !v128.any_true(excite.at(g, frame)) &&
      unmoved(state.beforeAt, gate.at(g, frame))
    ) {
      m.outOut.fill(g, frame, frames, splat(0));
      continue;
    }
    resting = false;
    const still = (pitch.step(g) | m.decay.step(g) | m.damping.step(g) | m.stiffness.step(g)) == 0;
    const rows = scratch(0);
    for (let f = frame, end = frame + frames; f < end; ++f) {
      const now = time + f,
        given = clamp(excite.at(g, f), splat(-GREATEST), splat(GREATEST));
      const rises = rising(state.beforeAt, gate.at(g, f));
      let heard = splat(0),
        busy = given,
        first = splat(0);
      for (let n: u32 = 0; n < strings; ++n) {
        const tuning = changetype<Tuning>(rows + <usize>n * TUNING_BYTES);
        if (
          f == frame ||
          !still ||
          (n > 0 && !m.signal(P.PARAM_COUPLETUNE1 + ((n - 1) << 3)).isConstant(g))
        ) {
          let octaves = pitch.at(g, f);
          if (n)
            octaves = madd(
              m.signal(P.PARAM_COUPLETUNE1 + ((n - 1) << 3)).at(g, f),
              splat(1.0 / 12.0),
              octaves,
            );
          tune(tuning, octaves, m.decay.at(g, f), m.damping.at(g, f), m.stiffness.at(g, f), longest);
        }
        const delay = tuning.delay,
          period = tuning.period;
        const ring = rings + <usize>n * ringBytes;
        const y = loopOf(
          state,
          tuning,
          n,
          readPast(INTERPOLATION_SPLINE, ring, mask, now, delay, uniform(delay), 0),
        );
        let drive = given;
        if (n == 0) {
          drive = blow(state, period, given);
          if (v128.any_true(rises)) state.burst = v128.bitselect(period, state.burst, rises);
          const left = state.burst,
            plucking = f32x4.gt(left, splat(0));
          if (v128.any_true(plucking)) {
            const noise = bipolar(
              mixBits(v128.xor(seeds, i32x4.mul(i32x4.splat(<i32>now), i32x4.splat(0x9e3779b1)))),
            );
            drive = add(drive, v128.and(mul(noise, mul(m.pluck.at(g, f), splat(PLUCK))), plucking));
            state.burst = higher(splat(0), sub(left, splat(1)));
          }
        } else
          drive = mul(
            mul(first, sub(splat(1), tuning.gain)),
            mul(m.signal(P.PARAM_COUPLING1 + ((n - 1) << 3)).at(g, f), splat(COUPLING)),
          );
        const w = softLimit(add(y, drive), KNEE, RANGE);
        v128.store(slotOf(ring, mask, now), w);
        busy = v128.or(busy, w);
        if (n == 0) {
          // Plucked at a point: what left it the other way comes back upside down.
          const place = higher(mul(m.position.at(g, f), period), splat(1));
          const passed = readPast(INTERPOLATION_LINEAR, ring, mask, now, place, uniform(place), 0);
          heard = sub(w, v128.and(passed, f32x4.gt(m.position.at(g, f), splat(0))));
          // What is heard of the string is what the others hear.
          first = heard;
        } else heard = add(heard, w);
      }
      quiet = v128.any_true(busy) ? 0 : quiet + 1;
      m.outOut.put(g, f, mul(heard, m.level.at(g, f)));
    }
    store<u32>(state.quietAt, min<u32>(quiet, 0x7fffffff));
  }
  if (resting) m.rest();
}
