import { DESCRIPTIONS } from './generated/catalogue.ts'
export { FAMILIES } from './generated/catalogue.ts'
import { slotsOf, type Slots } from './describe/slots.ts'
import type {
  InputDescription,
  ModuleDescription,
  OutputDescription,
  ParamDescription,
  Part,
} from './describe/types.ts'

/** A description with what is asked of it all the time worked out once. */
export interface CatalogueEntry {
  readonly description: ModuleDescription
  readonly slots: Slots
  readonly inputs: ReadonlyMap<string, InputDescription>
  readonly outputs: ReadonlyMap<string, OutputDescription>
  readonly params: ReadonlyMap<string, ParamDescription>
}

export type Catalogue = ReadonlyMap<string, CatalogueEntry>

const byName = <T extends { readonly name: string }>(list: readonly T[]): ReadonlyMap<string, T> =>
  new Map(list.map((item) => [item.name, item]))

export const makeCatalogue = (descriptions: readonly ModuleDescription[]): Catalogue =>
  new Map(
    descriptions.map((description) => [
      description.type,
      {
        description,
        slots: slotsOf(description),
        inputs: byName(description.inputs),
        outputs: byName(description.outputs),
        params: byName(description.params),
      },
    ]),
  )

/** The module the compiler uses as a part of its own. */
export const partOf = (catalogue: Catalogue, part: Part): CatalogueEntry => {
  let parts = known.get(catalogue)
  if (!parts) {
    parts = new Map(
      [...catalogue.values()].flatMap((entry) =>
        entry.description.part ? [[entry.description.part, entry] as const] : [],
      ),
    )
    known.set(catalogue, parts)
  }
  const entry = parts.get(part)
  if (!entry) throw new Error(`No module is the compiler's "${part}"`)
  return entry
}
const known = new WeakMap<Catalogue, ReadonlyMap<Part, CatalogueEntry>>()

/** Every module there is, by type, the compiler's own included. */
export const CATALOGUE: Catalogue = makeCatalogue(DESCRIPTIONS)

/** What users may add, in the order of the catalogue. */
export const PUBLIC_MODULES: readonly ModuleDescription[] = DESCRIPTIONS.filter(
  (description) => !description.internal,
)
