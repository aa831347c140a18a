// Wavetable: for each lane the level whose partials fit below Nyquist (levels are half an octave apart), two frames of
// it read at the phase by fifth-order Lagrange interpolation, and the two mixed by the position.
import * as P from "../../../generated/wavetable.as";
import { scratch } from "../../../kernels/scratch.as";
import { sampleRate } from "../../../kernels/time.as";
import { rising } from "../../../kernels/edges.as";
import { fixedCycles, trackedRow, stepPhase, unsignedPhase } from "../../../kernels/phase.as";
import { add, clamp, higher, log2, madd, mul, splat, sub } from "../../../kernels/simd.as";

const LEVELS: i32 = 17;
const HEAD_BYTES: usize = 160;
/** Partials of level 0, doubled: level = 2 log2(2 · 256 · increment), rounded up. */
const TWICE_PARTIALS: f32 = 512;
const FREQUENCIES: u32 = 0,
  LANES: u32 = 1;

/** Six points at p with the weights of lane o. */
@inline function weighed(weights: usize, p: usize): f32 {
  return (
    load<f32>(weights) * load<f32>(p) +
    load<f32>(weights, 16) * load<f32>(p, 4) +
    load<f32>(weights, 32) * load<f32>(p, 8) +
    load<f32>(weights, 48) * load<f32>(p, 12) +
    load<f32>(weights, 64) * load<f32>(p, 16) +
    load<f32>(weights, 80) * load<f32>(p, 20)
  );
}

/** Fifth-order Lagrange weights over the points -2 … 3 around a fraction. */
function weigh(f: v128, row: usize): void {
  const a = add(f, splat(2)),
    b = add(f, splat(1)),
    d = sub(f, splat(1)),
    e = sub(f, splat(2)),
    h = sub(f, splat(3));
  const ab = mul(a, b),
    eh = mul(e, h),
    fd = mul(f, d),
    deh = mul(d, eh),
    abf = mul(ab, f);
  v128.store(row, mul(mul(mul(b, f), deh), splat(-1.0 / 120.0)));
  v128.store(row, mul(mul(mul(a, f), deh), splat(1.0 / 24.0)), 16);
  v128.store(row, mul(mul(ab, deh), splat(-1.0 / 12.0)), 32);
  v128.store(row, mul(mul(abf, eh), splat(1.0 / 12.0)), 48);
  v128.store(row, mul(mul(ab, mul(fd, h)), splat(-1.0 / 24.0)), 64);
  v128.store(row, mul(mul(ab, mul(fd, e)), splat(1.0 / 120.0)), 80);
}

/** Reads four lanes: each at its level and phase, between the two frames around its position. */
function readGroup(table: usize, position: v128, level: v128, phase: v128): v128 {
  const count = load<i32>(table),
    floats = load<i32>(table, 4),
    row = scratch(LANES);
  v128.store(row, mul(clamp(position, splat(0), splat(1)), splat(<f32>(count - 1))));
  v128.store(row, level, 16);
  for (let o: usize = 0; o < 16; o += 4)
    store<f32>(row + o, <f32>load<i32>(table + 16 + ((<usize>load<i32>(row + o, 16)) << 3), 4), 32);
  const x = mul(phase, v128.load(row, 32)),
    whole = i32x4.trunc_sat_f32x4_s(x);
  v128.store(row, whole, 48);
  weigh(sub(x, f32x4.convert_i32x4_s(whole)), row + 96);
  for (let o: usize = 0; o < 16; o += 4) {
    const place = load<f32>(row + o),
      first = <i32>place,
      t = place - <f32>first;
    const p =
      table +
      HEAD_BYTES +
      ((<usize>(
        (first * floats +
          load<i32>(table + 16 + ((<usize>load<i32>(row + o, 16)) << 3)) +
          load<i32>(row + o, 48))
      )) <<
        2);
    let y = weighed(row + 96 + o, p);
    if (t > 0 && first + 1 < count) y += (weighed(row + 96 + o, p + ((<usize>floats) << 2)) - y) * t;
    store<f32>(row + o, y, 80);
  }
  return v128.load(row, 80);
}


@inline function levelFor(increment: v128): v128 {
  const wanted = f32x4.ceil(
    mul(splat(2), log2(higher(mul(f32x4.abs(increment), splat(TWICE_PARTIALS)), splat(1e-6)))),
  );
  return i32x4.trunc_sat_f32x4_s(clamp(wanted, splat(0), splat(<f32>(LEVELS - 1))));
}

export function process(m: P.Module, frame: u32, frames: u32): void {
  const table = m.table,
    outA = m.outA,
    outB = m.outB;
  const fm = m.fm,
    hz = m.hz,
    phaseIn = m.phase,
    sync = m.sync;
  const position = m.position,
    offset = m.offset,
    gain = m.level;
  const reset = m.reset;
  const modulated = fm.isCabled || hz.isCabled || phaseIn.isCabled || sync.isCabled || reset.isCabled;
  for (let g: u32 = 0, groups = m.groups; g < groups; ++g) {
    const state = m.state(g),
      row = scratch(FREQUENCIES);
    // One vector for all frames where the pitch stands still, whatever else moves.
    const constant = trackedRow(
        g,
        frame,
        frames,
        row,
        m.pitch,
        m.tracking,
        m.frequency,
        m.frequencyFactor,
        m.octave,
        m.semitones,
        m.fine,
      ),
      steady = constant && !modulated;
    let before = state.phaseBefore,
      level = levelFor(mul(v128.load(row), splat(1 / sampleRate)));
    const a: usize = outA.isWanted ? outA.write(g, frame) : 0,
      b: usize = outB.isWanted ? outB.write(g, frame) : 0;

    for (let f: u32 = 0; f < frames; ++f) {
      const at = frame + f;
      let high = state.high,
        low = state.low,
        phase = high;
      let hertz = v128.load(constant ? row : row + (f << 4));
      if (modulated) {
        const moved = phaseIn.at(g, at);
        hertz = madd(hertz, add(splat(1), fm.at(g, at)), hz.at(g, at));
        const renewed = rising(state.resetBeforeAt, reset.at(g, at)),
          restarts = v128.or(renewed, rising(state.syncBeforeAt, sync.at(g, at)));
        before = v128.bitselect(moved, before, renewed);
        high = v128.andnot(high, restarts);
        low = v128.andnot(low, restarts);
        phase = i32x4.add(high, fixedCycles(moved));
        level = levelFor(madd(hertz, splat(1 / sampleRate), sub(moved, before)));
        before = moved;
      } else if (!steady) level = levelFor(mul(hertz, splat(1 / sampleRate)));
      const p = unsignedPhase(phase),
        place = position.at(g, at),
        loud = gain.at(g, at);
      if (a) v128.store(a + (f << 4), mul(loud, readGroup(table, place, level, p)));
      if (b) v128.store(b + (f << 4), mul(loud, readGroup(table, add(place, offset.at(g, at)), level, p)));
      stepPhase(state.highAt, high, low, hertz);
    }
    state.phaseBefore = before;
  }
}
