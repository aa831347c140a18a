/** Length in beats (quarter notes) of note value `index` of NOTE_VALUES: 1/1 … 1/64, each plain, dotted, triplet. */
export function beatsOfNoteValue(index: i32): f64 {
  const plain = 4.0 / <f64>(1 << (index / 3));
  const kind = index % 3;
  return kind == 1 ? plain * 1.5 : kind == 2 ? (plain * 2.0) / 3.0 : plain;
}
