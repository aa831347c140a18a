import * as P from "../../../generated/quantize.as";
import { isZero, nextTrigger, rising, startTrigger, unmoved } from "../../../kernels/edges.as";
import {
  choiceOf,
  isCabled,
  put,
  read,
  scratch,
  signalAt,
  stateOf,
  tableOf,
} from "../../../kernels/instance.as";
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

// @ts-ignore: decorator
@inline function allowed(scale: usize, root: i32, note: i32): bool {
  const degree = (((note - root) % 12) + 12) % 12;
  return load<f32>(scale + ((<usize>degree) << 2)) != 0;
}

function notesAt(instance: usize, g: u32, f: u32): v128 {
  const row = scratch(0),
    roots = scratch(0) + 16,
    scale = tableOf(instance),
    direction = choiceOf(instance, P.SET_DIRECTION);
  v128.store(row, f32x4.mul(read(instance, P.IN_IN, g, f), splat(12)));
  v128.store(roots, f32x4.nearest(read(instance, P.PARAM_ROOT, g, f)));
  for (let k: usize = 0; k < 16; k += 4) {
    const x = load<f32>(row + k);
    store<f32>(
      row + k,
      noteFor(scale, <i32>load<f32>(roots + k), x == x ? min<f32>(max<f32>(x, -600), 600) : 0, direction),
    );
  }
  return v128.load(row);
}

export function idle(instance: usize, g: u32): bool {
  const state = stateOf(instance, g);
  if (
    !isZero(state + P.STATE_CHANGEDLEFT) ||
    isZero(state + P.STATE_STARTED) ||
    !unmoved(state + P.STATE_BEFORE, read(instance, P.IN_TRIGGER, g, 0))
  )
    return false;
  return (
    isCabled(signalAt(instance, P.IN_TRIGGER)) ||
    !v128.any_true(f32x4.ne(notesAt(instance, g, 0), v128.load(state + P.STATE_NOTE)))
  );
}

export function compute(instance: usize, g: u32, f: u32): void {
  const state = stateOf(instance, g);
  const rises = rising(state + P.STATE_BEFORE, read(instance, P.IN_TRIGGER, g, f));
  const first = isZero(state + P.STATE_STARTED);
  let take = isCabled(signalAt(instance, P.IN_TRIGGER)) ? rises : i32x4.splat(-1);
  const before = v128.load(state + P.STATE_NOTE);
  if (v128.any_true(take)) {
    const notes = v128.bitselect(notesAt(instance, g, f), before, take);
    if (!first) startTrigger(state + P.STATE_CHANGEDLEFT, f32x4.ne(notes, before));
    v128.store(state + P.STATE_NOTE, notes);
  }
  v128.store(state + P.STATE_STARTED, i32x4.splat(-1));
  put(
    instance,
    P.OUT_OUT,
    g,
    f,
    add(div(v128.load(state + P.STATE_NOTE), splat(12)), read(instance, P.IN_SHIFT, g, f)),
  );
  put(instance, P.OUT_CHANGED, g, f, nextTrigger(state + P.STATE_CHANGEDLEFT));
}
