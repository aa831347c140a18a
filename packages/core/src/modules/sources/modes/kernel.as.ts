// Modes: each a complex number turned on and shrunk at every sample, z ← r e^(jw) z + input: exact in pitch and decay,
// stable under any modulation. The modes of one voice stand in the lanes of vectors, four at a time.
import * as P from "../../../generated/modes.as";
import { scratch } from "../../../kernels/scratch.as";
import { sampleRate } from "../../../kernels/time.as";
import { rising, unmoved } from "../../../kernels/edges.as";
import { isEmpty } from "../../../kernels/quiet.as";
import { DECAY_OCTAVES } from "../../../kernels/levels.as";
import { C4 } from "../../../kernels/phase.as";
import {
  add,
  bipolar,
  clamp,
  div,
  exp2,
  higher,
  log2,
  lower,
  madd,
  mixBits,
  mul,
  sineOfCycles,
  splat,
  sub,
} from "../../../kernels/simd.as";

const SETS: u32 = 8;
/** Full spread scatters the modes within ± 3 %. */
const SCATTER: f32 = 0.03;
/** Full tone tilts the modes by so many octaves of level an octave. */
const TILT: f32 = 2;
const MODEL_BYTES: usize = 384;
/**
 * What drives a mode at `excite` is weighed by its frequency, DRIVE f / (f + CORNER): a blow of some milliseconds has a
 * hundred times the strength at 30 Hz that it has at 2 kHz. And each mode takes it at another phase (Schroeder 1970, as
 * the partials), or a blow would find all of them at their crest together.
 */
const DRIVE: f32 = 0.7,
  CORNER_HERTZ: f32 = 2000;
/** A mode swinging further than this loses the excess within some ten samples, without a change of its wave. */
const ROOM: f32 = 0.58,
  EXCESS_LOSS: f32 = 0.25;
/** Level of all modes together at full swing, as the effective value of one. */
const LOUDNESS: f32 = 1.1;
/** A trigger swings a mode as far as it goes without loss. */
const STRIKE: f32 = 0.58;


@inline function laneOf(x: v128, k: u32): f32 {
  return k == 0
    ? f32x4.extract_lane(x, 0)
    : k == 1
      ? f32x4.extract_lane(x, 1)
      : k == 2
        ? f32x4.extract_lane(x, 2)
        : f32x4.extract_lane(x, 3);
}

/** What a mode keeps of its swing at this sample: all of it within its room. */
@inline function withinRoom(re: v128, im: v128): v128 {
  const excess = higher(sub(madd(re, re, mul(im, im)), splat(ROOM * ROOM)), splat(0));
  return div(splat(1), madd(splat(EXCESS_LOSS), excess, splat(1)));
}

/** Works out the turns and levels of a voice's modes. */
function place(
  m: P.Module,
  g: u32,
  k: u32,
  state: P.State,
  pitch: f32,
  decay: f32,
  tone: f32,
  spread: f32,
  count: f32,
): void {
  const table = m.table + <usize>m.model * MODEL_BYTES;
  const hertz = f32x4.extract_lane(exp2(splat(pitch)), 0) * C4,
    seed = <i32>laneOf(m.laneSeeds(g), k);
  let power = splat(0);
  for (let n: u32 = 0; n < SETS; ++n) {
    const first = add(splat(<f32>(n << 2)), f32x4(1, 2, 3, 4)),
      ratio = v128.load(table + (n << 4));
    const scattered = bipolar(
      mixBits(
        i32x4.add(
          i32x4.splat(seed),
          i32x4.mul(i32x4.add(i32x4.splat(<i32>(n << 2)), i32x4(1, 2, 3, 4)), i32x4.splat(0x2545f491)),
        ),
      ),
    );
    const f = mul(mul(ratio, madd(scattered, splat(spread * SCATTER), splat(1))), splat(hertz)),
      share = mul(f, splat(1 / sampleRate));
    const there = v128.and(f32x4.le(first, splat(count)), f32x4.lt(share, splat(0.47)));
    const held = lower(share, splat(0.47)),
      quarter = add(held, splat(0.25));
    const seconds = mul(v128.load(table + 256 + (n << 4)), splat(decay));
    const r = exp2(div(splat(DECAY_OCTAVES / sampleRate), higher(seconds, splat(1e-3))));
    const at = state.turnsAt + ((<usize>((k << 3) + n)) << 5);
    v128.store(at, mul(r, sineOfCycles(sub(quarter, f32x4.nearest(quarter)))));
    v128.store(at, mul(r, sineOfCycles(held)), 16);
    const level = v128.and(
      mul(
        v128.load(table + 128 + (n << 4)),
        exp2(mul(log2(higher(ratio, splat(1e-3))), splat(tone * TILT - <f32>0.5))),
      ),
      there,
    );
    power = add(power, mul(level, level));
    const drive = mul(splat(DRIVE), div(f, add(f, splat(CORNER_HERTZ)))),
      angle = mul(mul(first, first), splat(1.0 / 128.0)),
      turned = sub(angle, f32x4.nearest(angle)),
      across = add(turned, splat(0.25));
    const driveAt = state.drivesAt + ((<usize>((k << 3) + n)) << 5);
    v128.store(driveAt, mul(drive, sineOfCycles(sub(across, f32x4.nearest(across)))));
    v128.store(driveAt, mul(drive, sineOfCycles(turned)), 16);
    v128.store(state.gainsAt + ((<usize>((k << 3) + n)) << 4), level);
  }
  const all = laneOf(power, 0) + laneOf(power, 1) + laneOf(power, 2) + laneOf(power, 3),
    loud: f32 = LOUDNESS / sqrt<f32>(max<f32>(all, 1e-6));
  for (let n: u32 = 0; n < SETS; ++n) {
    const at = state.gainsAt + ((<usize>((k << 3) + n)) << 4);
    v128.store(at, mul(v128.load(at), splat(loud)));
  }
}

/** Places a voice's modes anew when anything they depend on has changed. */
function keepPlaced(m: P.Module, g: u32, k: u32, f: u32, state: P.State): void {
  const o = (<usize>k) << 2;
  const pitch = laneOf(m.pitch.at(g, f), k),
    decay = laneOf(m.decay.at(g, f), k),
    tone = laneOf(m.tone.at(g, f), k);
  const spread = laneOf(m.spread.at(g, f), k),
    count = laneOf(m.count.at(g, f), k),
    model = m.model + 1;
  if (
    load<f32>(state.keyPitchAt + o) == pitch &&
    load<f32>(state.keyDecayAt + o) == decay &&
    load<f32>(state.keyToneAt + o) == tone &&
    load<f32>(state.keySpreadAt + o) == spread &&
    load<f32>(state.keyCountAt + o) == count &&
    load<i32>(state.keyModelAt + o) == model
  )
    return;
  store<f32>(state.keyPitchAt + o, pitch);
  store<f32>(state.keyDecayAt + o, decay);
  store<f32>(state.keyToneAt + o, tone);
  store<f32>(state.keySpreadAt + o, spread);
  store<f32>(state.keyCountAt + o, count);
  store<i32>(state.keyModelAt + o, model);
  place(m, g, k, state, pitch == pitch ? min<f32>(max<f32>(pitch, -10), 10) : 0, decay, tone, spread, count);
}

export function process(m: P.Module, frame: u32, frames: u32): void {
  const out = m.outOut,
    excite = m.excite,
    trigger = m.trigger,
    gain = m.level;
  const voices = m.voiceCount;
  let resting = true;
  for (let g: u32 = 0, groups = m.groups; g < groups; ++g) {
    const state = m.state(g);
    if (
      m.settled(g) &&
      !v128.any_true(excite.at(g, frame)) &&
      unmoved(state.beforeAt, trigger.at(g, frame)) &&
      isEmpty(state.address, 64)
    ) {
      out.fill(g, frame, frames, splat(0));
      continue;
    }
    resting = false;
    const inputs = scratch(0),
      outputs = scratch(1),
      strikes = scratch(2),
      used = min<u32>(4, voices - (g << 2));
    // Lanes without a voice are 0.
    if (used < 4) memory.fill(outputs, 0, frames << 4);
    for (let f: u32 = 0; f < frames; ++f) {
      // A strike is one sample of full level.
      const rises = rising(state.beforeAt, trigger.at(g, frame + f));
      v128.store(inputs + (f << 4), clamp(excite.at(g, frame + f), splat(-1000), splat(1000)));
      v128.store(strikes + (f << 4), v128.and(rises, splat(STRIKE)));
    }
    const still =
      (m.pitch.step(g) | m.decay.step(g) | m.tone.step(g) | m.spread.step(g) | m.count.step(g)) == 0;
    for (let k: u32 = 0; k < used; ++k) {
      if (still) {
        keepPlaced(m, g, k, frame, state);
        const sets = min<u32>(SETS, (<u32>load<f32>(state.keyCountAt + (k << 2)) + 3) >> 2);
        for (let f: u32 = 0; f < frames; ++f) store<f32>(outputs + (f << 4) + (k << 2), 0);
        // A set after the other, its numbers in registers.
        for (let n: u32 = 0; n < SETS; ++n) {
          const at = (<usize>((k << 3) + n)) << 4,
            turn = state.turnsAt + (at << 1);
          let re = v128.load(state.reAt + at),
            im = v128.load(state.imAt + at);
          if (n >= sets && !v128.any_true(v128.or(re, im))) continue;
          const c = v128.load(turn),
            s = v128.load(turn, 16),
            driveRe = v128.load(state.drivesAt + (at << 1)),
            driveIm = v128.load(state.drivesAt + (at << 1), 16),
            loud = v128.load(state.gainsAt + at);
          for (let f: u32 = 0; f < frames; ++f) {
            const o = (f << 4) + (k << 2),
              x = v128.load32_splat(inputs + o),
              hit = madd(x, driveRe, v128.load32_splat(strikes + o));
            const nextRe = add(sub(mul(re, c), mul(im, s)), hit);
            im = madd(x, driveIm, madd(re, s, mul(im, c)));
            re = nextRe;
            const kept = withinRoom(re, im);
            re = mul(re, kept);
            im = mul(im, kept);
            const y = mul(im, loud),
              half = add(y, v128.shuffle<i32>(y, y, 2, 3, 0, 1));
            const p = outputs + (f << 4) + (k << 2);
            store<f32>(p, load<f32>(p) + (f32x4.extract_lane(half, 0) + f32x4.extract_lane(half, 1)));
          }
          v128.store(state.reAt + at, re);
          v128.store(state.imAt + at, im);
        }
        continue;
      }
      for (let f: u32 = 0; f < frames; ++f) {
        keepPlaced(m, g, k, frame + f, state);
        const o = (f << 4) + (k << 2),
          excited = v128.load32_splat(inputs + o),
          struck = v128.load32_splat(strikes + o);
        let sum: f32 = 0;
        for (let n: u32 = 0; n < SETS; ++n) {
          const at = (<usize>((k << 3) + n)) << 4,
            turn = state.turnsAt + (at << 1);
          const re = v128.load(state.reAt + at),
            im = v128.load(state.imAt + at);
          if (n >= (<u32>load<f32>(state.keyCountAt + (k << 2)) + 3) >> 2 && !v128.any_true(v128.or(re, im)))
            continue;
          const c = v128.load(turn),
            s = v128.load(turn, 16),
            driveAt = state.drivesAt + (at << 1);
          const hit = madd(excited, v128.load(driveAt), struck);
          const freeRe = add(sub(mul(re, c), mul(im, s)), hit),
            freeIm = madd(excited, v128.load(driveAt, 16), madd(re, s, mul(im, c))),
            kept = withinRoom(freeRe, freeIm),
            nextIm = mul(freeIm, kept);
          v128.store(state.reAt + at, mul(freeRe, kept));
          v128.store(state.imAt + at, nextIm);
          const y = mul(nextIm, v128.load(state.gainsAt + at)),
            half = add(y, v128.shuffle<i32>(y, y, 2, 3, 0, 1));
          sum += f32x4.extract_lane(half, 0) + f32x4.extract_lane(half, 1);
        }
        store<f32>(outputs + (f << 4) + (k << 2), sum);
      }
    }
    if (out.isWanted)
      for (let f: u32 = 0; f < frames; ++f)
        v128.store(out.write(g, frame + f), mul(v128.load(outputs + (f << 4)), gain.at(g, frame + f)));
  }
  if (resting) m.rest();
}
