/** What a record itself holds under a name; never what every object has ("constructor", "__proto__"). */
export const own = <T>(record: Readonly<Record<string, T>> | undefined, name: string): T | undefined =>
  // eslint-disable-next-line ypsilon/own-lookups -- this is the one look-up
  record !== undefined && Object.hasOwn(record, name) ? record[name] : undefined
