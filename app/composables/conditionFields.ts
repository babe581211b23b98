import type { Component } from 'vue'
import { factKind, type FactName } from '#core/kinds'

const FIELDS = import.meta.glob<Component>('../components/kinds/conditions/*.vue', { eager: true, import: 'default' })

/** The field in which the value of a kind of condition is filled in, found by its name; null where there is nothing to fill in. */
export function fieldOf(name: FactName): Component | null {
  const { field } = factKind(name)
  return field === null ? null : (FIELDS[`../components/kinds/conditions/${field}.vue`] ?? null)
}
