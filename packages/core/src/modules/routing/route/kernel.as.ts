import * as P from "../../../generated/route.as";
import { choiceOf, isCabled, numberOf, put, read, signalAt, stateOf } from "../../../kernels/instance.as";
import { atStepper, moveGains, selectStep, stepsUnmoved } from "../../../kernels/stepping.as";
import { mul } from "../../../kernels/simd.as";

function declare(instance: usize, g: u32, f: u32): void {
  atStepper(
    instance,
    g,
    stateOf(instance, g) + P.STATE_CLOCKBEFORE,
    read(instance, P.IN_CLOCK, g, f),
    read(instance, P.IN_RESET, g, f),
    isCabled(signalAt(instance, P.IN_SELECT)),
    read(instance, P.IN_SELECT, g, f),
    <i32>numberOf(instance, P.SET_STEPS),
    choiceOf(instance, P.SET_ORDER),
    read(instance, P.PARAM_FADE, g, f),
  );
}

export function idle(instance: usize, g: u32): bool {
  declare(instance, g, 0);
  return stepsUnmoved();
}

export function compute(instance: usize, g: u32, f: u32): void {
  declare(instance, g, f);
  const gains = moveGains(selectStep()),
    x = read(instance, P.IN_IN, g, f);
  for (let n: u32 = 0; n < 8; ++n)
    put(instance, P.OUT_OUT1 + (n << 2), g, f, mul(x, v128.load(gains + (n << 4))));
}
