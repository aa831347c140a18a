// Ladder: four trapezoidal one-pole stages with instantaneous feedback through one tanh. The limit is solved together
// with the stages (Newton), and it is the only bend in the loop, so its phase stays that of the four poles and the
// whistle stays at the cutoff (Zavalishin, "The Art of VA Filter Design", chapter 6). It bends what is fed back alone,
// and the less is fed back the later it bites: what comes in is bent by the drive, which is oversampled.
import * as P from "../../../generated/ladder.as";
import { scratch } from "../../../kernels/scratch.as";
import { sampleRate } from "../../../kernels/time.as";
import { tangentOfShare } from "../../../kernels/filters.as";
import { DRIVEN_SOUND, driveRow, isUndriven } from "../../../kernels/saturate.as";
import { isQuiet } from "../../../kernels/quiet.as";
import { add, div, exp2, higher, hyperbolicTangent, madd, mul, splat, sub } from "../../../kernels/simd.as";

/** Where the limit of the feedback begins to bite when it whistles; with k of 4 fed back it is ROOM (4 / k)^1.5. */
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

export function process(m: P.Module, frame: u32, frames: u32): void {
  const input = m.in,
    pitch = m.pitch,
    out = m.outOut;
  const cutoff = m.cutoff,
    resonance = m.resonance,
    drive = m.drive,
    tracking = m.tracking;
  const weights = WEIGHTS + <usize>((m.mode * 4 + m.slope) * 20);
  const w0 = v128.load32_splat(weights),
    w1 = v128.load32_splat(weights, 4),
    w2 = v128.load32_splat(weights, 8),
    w3 = v128.load32_splat(weights, 12),
    w4 = v128.load32_splat(weights, 16);
  const one = splat(1);
  let resting = true;
  for (let g: u32 = 0, groups = m.groups; g < groups; ++g) {
    const state = m.state(g);
    const pd = drive.row(g, frame),
      sd = drive.step(g),
      undriven = isUndriven(state.drivenAt, pd, sd);
    if (m.settled(g) && isQuiet(input, g, frame, state.address, 5 + DRIVEN_SOUND)) {
      out.fill(g, frame, frames, splat(0));
      continue;
    }
    resting = false;
    let x = input.row(g, frame),
      xs = input.step(g),
      pc = cutoff.row(g, frame),
      pr = resonance.row(g, frame),
      pt = tracking.row(g, frame),
      pp = pitch.row(g, frame);
    const sc = cutoff.step(g),
      sr = resonance.step(g),
      st = tracking.step(g),
      sp = pitch.step(g);
    if (!undriven) {
      const driven = scratch(0);
      driveRow(state.drivenAt, x, xs, pd, sd, driven, frames, input.isFixed, true);
      x = driven;
      xs = 16;
    }
    const tracks = pitch.isCabled && (st != 0 || v128.any_true(v128.load(pt))),
      moves = (sc | (tracks ? st | sp : 0)) != 0;
    let s1 = v128.load(state.address),
      s2 = v128.load(state.address, 16),
      s3 = v128.load(state.address, 32),
      s4 = v128.load(state.address, 48),
      fed = v128.load(state.address, 64);
    let gg = splat(0),
      big = splat(0),
      g2 = splat(0),
      g4 = splat(0),
      k = splat(0),
      bend = splat(0),
      room = splat(ROOM),
      perRoom = splat(0);
    const q = out.write(g, frame);
    for (let f: u32 = 0; f < frames; ++f) {
      if (f == 0 || moves) {
        let hertz = v128.load(pc);
        if (tracks) hertz = mul(hertz, exp2(mul(v128.load(pt), v128.load(pp))));
        gg = tangentOfShare(mul(hertz, splat(1 / sampleRate)));
        big = div(gg, add(one, gg));
        g2 = mul(big, big);
        g4 = mul(g2, g2);
      }
      if (f == 0 || sr) {
        const r = v128.load(pr);
        // A little past 4 from just below 100 % on, so that at 100 % the whistle holds against the limit.
        k = add(mul(splat(4), r), mul(splat(4), higher(splat(0), sub(r, splat(0.99)))));
        // Half of the bass that feedback takes away is given back.
        bend = madd(k, splat(0.5), one);
        const share = mul(k, splat(0.25));
        perRoom = mul(mul(share, f32x4.sqrt(share)), splat(1 / ROOM));
        room = div(one, higher(perRoom, splat(1e-6)));
      }
      // What the stages add by themselves: y4 = g4 u + S.
      const rest1 = sub(one, big);
      const z1 = mul(s1, rest1),
        z2 = mul(s2, rest1),
        z3 = mul(s3, rest1),
        z4 = mul(s4, rest1);
      const sum = madd(madd(madd(z1, big, z2), big, z3), big, z4);
      // u = x - R tanh(k (g4 u + S) / R): from the last u, three steps of Newton; the slope lies within 1 and 1 + k.
      const a = mul(v128.load(x), bend),
        b = mul(k, g4),
        c = mul(k, sum);
      let u = fed;
      for (let n = 0; n < 3; ++n) {
        const t = hyperbolicTangent(mul(madd(b, u, c), perRoom));
        const miss = madd(room, t, sub(u, a));
        u = sub(u, div(miss, madd(b, sub(one, mul(t, t)), one)));
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
      pt += st;
      pp += sp;
    }
    v128.store(state.address, s1);
    v128.store(state.address, s2, 16);
    v128.store(state.address, s3, 32);
    v128.store(state.address, s4, 48);
    v128.store(state.address, fed, 64);
  }
  if (resting) m.rest();
}
