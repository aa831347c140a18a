// A whole number of stages in a row that changes by a cross-fade: a further change begins when the last has ended.
import { stepTo } from "./sweep.as";
import { madd, splat, sub } from "./simd.as";

/** The greatest lane, as a whole number. */
@inline export function mostOf(x: v128): u32 {
  return <u32>(
    max(
      max(f32x4.extract_lane(x, 0), f32x4.extract_lane(x, 1)),
      max(f32x4.extract_lane(x, 2), f32x4.extract_lane(x, 3)),
    )
  );
}

/** Four vectors of a module's state: the number there was, the one it goes to, how far it has come (0…1), has it begun. */
@unmanaged
export class Counting {
  now: v128;
  next: v128;
  arrived: v128;
  started: v128;


  @inline static at(state: usize): Counting {
    return changetype<Counting>(state);
  }
  /** Are all lanes at a number, and none on its way? */
  @inline isAt(count: u32): bool {
    const all = splat(<f32>count),
      away = v128.or(f32x4.ne(this.now, all), f32x4.ne(this.next, all));
    return v128.any_true(this.started) && !v128.any_true(v128.or(away, f32x4.lt(this.arrived, splat(1))));
  }
  /** So many stages have to run. */
  @inline get running(): u32 {
    return max(mostOf(this.now), mostOf(this.next));
  }

  /** One frame on towards a number, `step` of the way a frame; how many have to run. */
  @inline move(wanted: v128, step: f32): u32 {
    if (!v128.any_true(this.started)) {
      this.now = wanted;
      this.next = wanted;
      this.arrived = splat(1);
      this.started = i32x4.splat(-1);
    }
    const isThere = f32x4.ge(this.arrived, splat(1));
    const now = v128.bitselect(this.next, this.now, isThere),
      next = v128.bitselect(wanted, this.next, isThere);
    const isSame = f32x4.eq(now, next);
    this.now = now;
    this.next = next;
    this.arrived = v128.bitselect(
      splat(1),
      stepTo(v128.andnot(this.arrived, v128.andnot(isThere, isSame)), splat(1), step),
      isSame,
    );
    return this.running;
  }

  /** How much of a stage is there, 0…1; the first is 1. */
  @inline presence(stage: u32): v128 {
    const at = splat(<f32>stage - 0.5);
    return this.between(
      v128.and(f32x4.gt(this.now, at), splat(1)),
      v128.and(f32x4.gt(this.next, at), splat(1)),
    );
  }
  /** Between what belongs to the number there was and what belongs to the one it goes to. */
  @inline between(old: v128, next: v128): v128 {
    return madd(this.arrived, sub(next, old), old);
  }
}
