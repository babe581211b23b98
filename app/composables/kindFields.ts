import type { Component } from 'vue'
import { effectKindOf, factKind, type EffectKind, type FactName } from '#core/kinds'

const CONDITIONS = import.meta.glob<Component>('../components/kinds/conditions/*.vue', { eager: true, import: 'default' })
const EFFECTS = import.meta.glob<Component>('../components/kinds/effects/*.vue', { eager: true, import: 'default' })

/** The field in which the value of a kind of condition is filled in, found by its name; null where there is nothing to fill in. */
export function fieldOf(name: FactName): Component | null {
  const { field } = factKind(name)
  return field === null ? null : (CONDITIONS[`../components/kinds/conditions/${field}.vue`] ?? null)
}

/** The same for a kind of effect; null where no form offers it. */
export function effectFieldOf(kind: EffectKind): Component | null {
  const { form } = effectKindOf(kind)
  return form === null ? null : (EFFECTS[`../components/kinds/effects/${form.field}.vue`] ?? null)
}
