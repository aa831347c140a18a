import * as P from "../../../generated/chord.as";
import { scratch } from "../../../kernels/scratch.as";
import { add, bipolar, div, mixBits, splat } from "../../../kernels/simd.as";

export function compute(
  m: P.Module,
  g: u32,
  f: u32,
  out: P.Outputs,
  inversion: v128,
  spread: v128,
  pitch: v128,
): void {
  const rows = scratch(0),
    sides = m.sideCount,
    notes = m.voiceCount;
  v128.store(rows, inversion, 16);
  v128.store(rows, spread, 32);
  for (let k: u32 = 0; k < 4; ++k) {
    const lane = (g << 2) + k,
      note = sides == 2 ? lane >> 1 : lane,
      o = (<usize>k) << 2;
    let semitones: f32 = 0;
    if (note > 0 && note < 8) {
      v128.store(rows, m.signal(P.PARAM_INTERVAL2 + ((note - 1) << 2)).at(g, f), 48);
      semitones = load<f32>(rows + o, 48);
    }
    if (<f32>note < nearest<f32>(load<f32>(rows + o, 16))) semitones += 12;
    if (notes > 1) semitones += 12 * nearest<f32>((load<f32>(rows + o, 32) * <f32>note) / <f32>(notes - 1));
    store<f32>(rows + o, semitones);
  }
  out.pitch = add(pitch, div(v128.load(rows), splat(12)));
  // A value of its own for every note, always the same: for a little detune, pan or delay.
  out.scatter = bipolar(mixBits(v128.xor(m.laneSeeds(g), i32x4.splat(0x2545f491))));
}
