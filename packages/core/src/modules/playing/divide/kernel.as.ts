import * as P from "../../../generated/divide.as";
import { rising } from "../../../kernels/edges.as";
import { retriggered } from "../../../kernels/pulses.as";
import { scratch } from "../../../kernels/scratch.as";

/** This close to the next pulse counts as there: periods are whole samples, shares of them need not be. */
const NEARLY: f32 = 1e-5;

export function idle(state: P.State, clock: v128, reset: v128): bool {
  // Before the first clock nothing runs.
  return (
    !v128.any_true(state.count) &&
    !v128.any_true(f32x4.gt(clock, f32x4.splat(0.5))) &&
    !v128.any_true(state.resetBefore) &&
    !v128.any_true(f32x4.gt(reset, f32x4.splat(0.5)))
  );
}

export function compute(
  m: P.Module,
  g: u32,
  state: P.State,
  reset: v128,
  clock: v128,
  divide: v128,
  multiply: v128,
  offset: v128,
  width: v128,
): v128 {
  const row = scratch(0);
  const resets = i32x4.bitmask(rising(state.resetBeforeAt, reset));
  const clocks = i32x4.bitmask(rising(state.beforeAt, clock)),
    held = i32x4.bitmask(f32x4.gt(clock, f32x4.splat(0.5)));
  v128.store(row, divide);
  v128.store(row, multiply, 16);
  v128.store(row, offset, 32);
  v128.store(row, width, 48);
  v128.store(row, f32x4.splat(0), 64);
  for (let k: u32 = 0, used = m.usedLanes(g); k < used; ++k) {
    const o = (<usize>k) << 2;
    let count = load<i32>(state.countAt + o),
      since = load<i32>(state.sinceAt + o);
    if ((resets >> k) & 1) {
      count = 0;
      store<i32>(state.indexAt + o, 0);
    }
    if ((clocks >> k) & 1) {
      if (count > 0) store<i32>(state.periodAt + o, since);
      ++count;
      since = 0;
    }
    store<i32>(state.countAt + o, count);
    store<i32>(state.sinceAt + o, since + 1);
    let on = false,
      isNew = false;
    const period = load<i32>(state.periodAt + o);
    const divide = max<f32>(nearest<f32>(load<f32>(row + o)), 1),
      multiply = max<f32>(nearest<f32>(load<f32>(row + o, 16)), 1),
      offset = nearest<f32>(load<f32>(row + o, 32));
    const passed = <f32>(count - 1) - offset;
    if (count > 0 && passed >= 0) {
      // Whole clocks first: a long run keeps its precision.
      const cycle = floor<f32>(passed / divide),
        rest = passed - cycle * divide;
      const part: f32 = period > 0 ? min<f32>(<f32>since / <f32>period, 0.99998) : 0;
      const place = ((rest + part) * multiply) / divide + NEARLY;
      const inside = floor<f32>(place);
      const index = <i32>cycle * 64 + <i32>inside + 1;
      isNew = index != load<i32>(state.indexAt + o);
      store<i32>(state.indexAt + o, index);
      // Until two clocks have come, parts of one are as long as the clock itself.
      on = place - inside < load<f32>(row + o, 48) && (period > 0 || multiply <= 1 || ((held >> k) & 1) != 0);
    }
    store<f32>(row + o, retriggered(state.highAt + o, on, isNew) ? 1 : 0, 64);
  }
  return v128.load(row, 64);
}
