import * as P from "../../../generated/chord.as";
import { laneSeedsOf, put, read, scratch, sidesOf, voicesOf } from "../../../kernels/instance.as";
import { add, bipolar, div, mixBits, splat } from "../../../kernels/simd.as";

export function compute(instance: usize, g: u32, f: u32): void {
  const rows = scratch(0),
    sides = sidesOf(instance),
    notes = voicesOf(instance);
  v128.store(rows, read(instance, P.PARAM_INVERSION, g, f), 16);
  v128.store(rows, read(instance, P.PARAM_SPREAD, g, f), 32);
  for (let k: u32 = 0; k < 4; ++k) {
    const lane = (g << 2) + k,
      note = sides == 2 ? lane >> 1 : lane,
      o = (<usize>k) << 2;
    let semitones: f32 = 0;
    if (note > 0 && note < 8) {
      v128.store(rows, read(instance, P.PARAM_INTERVAL2 + ((note - 1) << 2), g, f), 48);
      semitones = load<f32>(rows + o, 48);
    }
    if (<f32>note < nearest<f32>(load<f32>(rows + o, 16))) semitones += 12;
    if (notes > 1) semitones += 12 * nearest<f32>((load<f32>(rows + o, 32) * <f32>note) / <f32>(notes - 1));
    store<f32>(rows + o, semitones);
  }
  put(instance, P.OUT_PITCH, g, f, add(read(instance, P.IN_PITCH, g, f), div(v128.load(rows), splat(12))));
  // A value of its own for every note, always the same: for a little detune, pan or delay.
  put(
    instance,
    P.OUT_SCATTER,
    g,
    f,
    bipolar(mixBits(v128.xor(laneSeedsOf(instance, g), i32x4.splat(0x2545f491)))),
  );
}
