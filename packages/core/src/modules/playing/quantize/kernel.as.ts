import * as P from "../../../generated/quantize.as";
import { isZero, nextTrigger, rising, startTrigger, unmoved } from "../../../kernels/edges.as";
import { scratch } from "../../../kernels/scratch.as";
import { add, div, splat } from "../../../kernels/simd.as";

/** Within this many semitones of a note counts as on it: a fifth written as 7/12 must not fall to the note below. */
const NEARLY: f32 = 0.0005;

/** The allowed note nearest to `x` semitones, or the next one down or up. */
function noteFor(scale: usize, root: i32, x: f32, direction: i32): f32 {
  const from = direction == P.DIRECTION_UP ? ceil<f32>(x - NEARLY) : floor<f32>(x + NEARLY);
  let below = <i32>from,
    above = below;
  for (let n = 0; n < 12; ++n) {
    if (direction != P.DIRECTION_UP && allowed(scale, root, below)) break;
    --below;
  }
  for (let n = 0; n < 13; ++n) {
    if (direction != P.DIRECTION_DOWN && allowed(scale, root, above)) break;
    ++above;
  }
  if (direction == P.DIRECTION_DOWN) return <f32>below;
  if (direction == P.DIRECTION_UP) return <f32>above;
  if (above == below) {
    do ++above;
    while (!allowed(scale, root, above));
  }
  return x - <f32>below < <f32>above - x ? <f32>below : <f32>above;
}


@inline function allowed(scale: usize, root: i32, note: i32): bool {
  const degree = (((note - root) % 12) + 12) % 12;
  return load<f32>(scale + ((<usize>degree) << 2)) != 0;
}

function notesAt(m: P.Module, g: u32, f: u32): v128 {
  const row = scratch(0),
    roots = scratch(0) + 16,
    scale = m.table,
    direction = m.direction;
  v128.store(row, f32x4.mul(m.in.at(g, f), splat(12)));
  v128.store(roots, f32x4.nearest(m.root.at(g, f)));
  for (let k: usize = 0; k < 16; k += 4) {
    const x = load<f32>(row + k);
    store<f32>(
      row + k,
      noteFor(scale, <i32>load<f32>(roots + k), x == x ? min<f32>(max<f32>(x, -600), 600) : 0, direction),
    );
  }
  return v128.load(row);
}

export function idle(m: P.Module, g: u32, state: P.State, trigger: v128): bool {
  if (!isZero(state.changedLeftAt) || isZero(state.startedAt) || !unmoved(state.beforeAt, trigger))
    return false;
  return m.trigger.isCabled || !v128.any_true(f32x4.ne(notesAt(m, g, 0), state.note));
}

export function compute(
  m: P.Module,
  g: u32,
  f: u32,
  state: P.State,
  out: P.Outputs,
  trigger: v128,
  shift: v128,
): void {
  const rises = rising(state.beforeAt, trigger);
  const first = isZero(state.startedAt);
  let take = m.trigger.isCabled ? rises : i32x4.splat(-1);
  const before = state.note;
  if (v128.any_true(take)) {
    const notes = v128.bitselect(notesAt(m, g, f), before, take);
    if (!first) startTrigger(state.changedLeftAt, f32x4.ne(notes, before));
    state.note = notes;
  }
  state.started = i32x4.splat(-1);
  out.out = add(div(state.note, splat(12)), shift);
  out.changed = nextTrigger(state.changedLeftAt);
}
