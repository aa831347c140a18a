export const FLAGS: readonly string[]
export const findChromium: () => string | undefined
export const ensureChromium: () => string
