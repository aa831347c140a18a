// Ladder: four trapezoidal one-pole stages with instantaneous feedback through one tanh. The limit is solved together
// with the stages (Newton), and it is the only bend in the loop, so its phase stays that of the four poles and the
// whistle stays at the cutoff (Zavalishin, "The Art of VA Filter Design", chapter 6).
import * as P from "../../../generated/ladder.as";
import {
  choiceOf,
  groupsOf,
  isCabled,
  pointerTo,
  rest,
  sampleRate,
  settled,
  signalAt,
  stateOf,
  strideOf,
  writeConstant,
  writeTo,
} from "../../../kernels/instance.as";
import { tangentOfShare } from "../../../kernels/filters.as";
import { gainOfDb } from "../../../kernels/levels.as";
import { isQuiet } from "../../../kernels/quiet.as";
import {
  add,
  clamp,
  div,
  exp2,
  higher,
  hyperbolicTangent,
  madd,
  mul,
  splat,
  sub,
} from "../../../kernels/simd.as";

/** Where the limit begins to bite: a full-scale sound is only rounded while drive is 0. */
const ROOM: f32 = 2;
/** Weights of the input and the four stages, by mode and number of poles. */
const WEIGHTS: usize = memory.data<f32>(
  [
    0, 1, 0, 0, 0, 0, 0, 1, 0, 0, 0, 0, 0, 1, 0, 0, 0, 0, 0, 1, 0, 2, -2, 0, 0, 0, 2, -2, 0, 0, 0, 0,
    2.8284271, -2.8284271, 0, 0, 0, 4, -8, 4, 1, -1, 0, 0, 0, 1, -2, 1, 0, 0, 1, -3, 3, -1, 0, 1, -4, 6, -4,
    1,
  ],
  16,
);

export function process(instance: usize, frame: u32, frames: u32): void {
  const input = signalAt(instance, P.IN_IN),
    pitch = signalAt(instance, P.IN_PITCH),
    out = signalAt(instance, P.OUT_OUT);
  const cutoff = signalAt(instance, P.PARAM_CUTOFF),
    resonance = signalAt(instance, P.PARAM_RESONANCE),
    drive = signalAt(instance, P.PARAM_DRIVE),
    tracking = signalAt(instance, P.PARAM_TRACKING);
  const weights =
    WEIGHTS + <usize>((choiceOf(instance, P.SET_MODE) * 4 + choiceOf(instance, P.SET_SLOPE)) * 20);
  const w0 = v128.load32_splat(weights),
    w1 = v128.load32_splat(weights, 4),
    w2 = v128.load32_splat(weights, 8),
    w3 = v128.load32_splat(weights, 12),
    w4 = v128.load32_splat(weights, 16);
  const room = splat(ROOM),
    perRoom = splat(1 / ROOM),
    one = splat(1);
  let resting = true;
  for (let g: u32 = 0, groups = groupsOf(instance); g < groups; ++g) {
    const state = stateOf(instance, g);
    if (settled(instance, g) && isQuiet(input, g, frame, state, 5)) {
      writeConstant(out, g, frame, frames, splat(0));
      continue;
    }
    resting = false;
    let x = pointerTo(input, g, frame),
      pc = pointerTo(cutoff, g, frame),
      pr = pointerTo(resonance, g, frame),
      pd = pointerTo(drive, g, frame),
      pt = pointerTo(tracking, g, frame),
      pp = pointerTo(pitch, g, frame);
    const xs = strideOf(input, g),
      sc = strideOf(cutoff, g),
      sr = strideOf(resonance, g),
      sd = strideOf(drive, g),
      st = strideOf(tracking, g),
      sp = strideOf(pitch, g);
    const tracks = isCabled(pitch) && (st != 0 || v128.any_true(v128.load(pt))),
      moves = (sc | (tracks ? st | sp : 0)) != 0;
    let s1 = v128.load(state),
      s2 = v128.load(state, 16),
      s3 = v128.load(state, 32),
      s4 = v128.load(state, 48),
      fed = v128.load(state, 64);
    let gg = splat(0),
      big = splat(0),
      g2 = splat(0),
      g4 = splat(0),
      gain = splat(1),
      k = splat(0),
      bend = splat(0);
    const q = writeTo(out, g, frame);
    for (let f: u32 = 0; f < frames; ++f) {
      if (f == 0 || moves) {
        let hertz = v128.load(pc);
        if (tracks) hertz = mul(hertz, exp2(mul(v128.load(pt), v128.load(pp))));
        gg = tangentOfShare(mul(hertz, splat(1 / sampleRate)));
        big = div(gg, add(one, gg));
        g2 = mul(big, big);
        g4 = mul(g2, g2);
      }
      if (f == 0 || sd) gain = gainOfDb(v128.load(pd));
      if (f == 0 || sr) {
        const r = v128.load(pr);
        // A little past 4 from just below 100 % on, so that at 100 % the whistle holds against the limit.
        k = add(mul(splat(4), r), mul(splat(4), higher(splat(0), sub(r, splat(0.99)))));
        // Half of the bass that feedback takes away is given back.
        bend = madd(k, splat(0.5), one);
      }
      // What the stages add by themselves: y4 = g4 u + S.
      const rest1 = sub(one, big);
      const z1 = mul(s1, rest1),
        z2 = mul(s2, rest1),
        z3 = mul(s3, rest1),
        z4 = mul(s4, rest1);
      const sum = madd(madd(madd(z1, big, z2), big, z3), big, z4);
      // u = R tanh((x - k (g4 u + S)) / R): from the last u, two steps of Newton.
      const a = sub(mul(mul(v128.load(x), gain), bend), mul(k, sum)),
        b = mul(k, g4);
      let u = fed;
      for (let n = 0; n < 3; ++n) {
        const t = hyperbolicTangent(mul(sub(a, mul(b, u)), perRoom));
        const slope = sub(one, mul(t, t));
        u = sub(u, div(sub(u, mul(room, t)), madd(b, slope, one)));
        u = clamp(u, f32x4.neg(room), room);
      }
      fed = u;
      const y1 = madd(big, u, z1),
        y2 = madd(big, y1, z2),
        y3 = madd(big, y2, z3),
        y4 = madd(big, y3, z4);
      // Trapezoidal states: s += 2 (y - s).
      s1 = madd(splat(2), sub(y1, s1), s1);
      s2 = madd(splat(2), sub(y2, s2), s2);
      s3 = madd(splat(2), sub(y3, s3), s3);
      s4 = madd(splat(2), sub(y4, s4), s4);
      v128.store(
        q + (f << 4),
        add(mul(w0, u), add(add(mul(w1, y1), mul(w2, y2)), add(mul(w3, y3), mul(w4, y4)))),
      );
      x += xs;
      pc += sc;
      pr += sr;
      pd += sd;
      pt += st;
      pp += sp;
    }
    v128.store(state, s1);
    v128.store(state, s2, 16);
    v128.store(state, s3, 32);
    v128.store(state, s4, 48);
    v128.store(state, fed, 64);
  }
  if (resting) rest(instance);
}
