import { Tabs } from 'radix-ui'
import type { ReactNode } from 'react'

export interface Tab<Name extends string> {
  readonly name: Name
  readonly label: string
  readonly content: ReactNode
}

interface TabsProps<Name extends string> {
  readonly label: string
  readonly tabs: readonly Tab<Name>[]
  readonly value: Name
  readonly onChange: (name: Name) => void
}

/** Tabs over one panel; arrow keys go from one to the next. */
export const TabSet = <Name extends string>({ label, tabs, value, onChange }: TabsProps<Name>) => (
  <Tabs.Root
    className="flex h-full min-h-0 flex-col"
    value={value}
    onValueChange={(name) => {
      onChange(name as Name)
    }}
  >
    <Tabs.List className="flex h-7 shrink-0 gap-4 border-b border-rule px-3" aria-label={label}>
      {tabs.map((tab) => (
        <Tabs.Trigger key={tab.name} value={tab.name} className="tab border-0 bg-transparent px-1 text-ink2">
          {tab.label}
        </Tabs.Trigger>
      ))}
    </Tabs.List>
    {tabs.map((tab) => (
      <Tabs.Content key={tab.name} value={tab.name} className="min-h-0 flex-1" tabIndex={-1}>
        {tab.content}
      </Tabs.Content>
    ))}
  </Tabs.Root>
)
