/** An amount of memory in words, rounded up to whole MiB. */
export const mib = (bytes: number): string => `${Math.ceil(bytes / 2 ** 20)} MiB`
