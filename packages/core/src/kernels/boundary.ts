/** Further memory of modules at the engine's boundary: one segment of left samples, then of right ones. */
export const AUX_LEFT = 0
export const AUX_RIGHT = 512
export const AUX_BYTES = 1024
