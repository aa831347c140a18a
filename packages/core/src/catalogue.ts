import { DESCRIPTIONS } from './generated/catalogue.ts'
import { slotsOf, type Slots } from './describe/slots.ts'
import type {
  InputDescription,
  ModuleDescription,
  OutputDescription,
  ParamDescription,
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

/** Every module there is, by type, the compiler's own included. */
export const CATALOGUE: Catalogue = makeCatalogue(DESCRIPTIONS)

/** What users may add, in the order of the catalogue. */
export const PUBLIC_MODULES: readonly ModuleDescription[] = DESCRIPTIONS.filter(
  (description) => !description.internal,
)
