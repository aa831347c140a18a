// By itself: the audio thread must not bring the whole catalogue along for one number.
/** Changes of set values and amounts take this long. */
export const SMOOTHING_SECONDS = 0.015
