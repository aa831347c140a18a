// When a module with memory of sound may fall silent: nothing comes in and nothing is left inside.
import { Signal } from "./signal.as";

/** True when `vectors` vectors are exactly zero. */
export function isEmpty(at: usize, vectors: u32): bool {
  let any = i32x4.splat(0);
  for (let end = at + ((<usize>vectors) << 4); at < end; at += 16) any = v128.or(any, v128.load(at));
  return !v128.any_true(any);
}
/** True when an input is constant zero and the state behind it is empty. */
export function isQuiet(input: Signal, group: u32, frame: u32, state: usize, vectors: u32): bool {
  return (
    input.isConstant(group) && !v128.any_true(v128.load(input.row(group, frame))) && isEmpty(state, vectors)
  );
}
