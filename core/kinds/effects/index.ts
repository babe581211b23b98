import { copy } from './copy'
import { encrypt } from './encrypt'
import { forward } from './forward'
import { addHeader } from './header'
import { markImportant } from './important'
import type { CopyEffects, DeliveredEffects, EffectKindOf } from './kind'
import { nextHop } from './next-hop'
import { notify } from './notify'
import { replace } from './replace'
import { reroute } from './reroute'
import { strip } from './strip'
import { subjectPrefix } from './subject-prefix'
import { tag } from './tag'
import { withhold } from './withhold-from-automation'

/** Every kind of effect. A new one is added here and in its own file. */
const KINDS = {
  tag: tag,
  subjectPrefix: subjectPrefix,
  important: markImportant,
  header: addHeader,
  forward: forward,
  copy: copy,
  reroute: reroute,
  nextHop: nextHop,
  strip: strip,
  replace: replace,
  encrypt: encrypt,
  notify: notify,
  withholdFromAutomation: withhold,
} as const

export type EffectKind = keyof typeof KINDS

export interface Effect {
  kind: EffectKind
  /** The tag, the address, the header line, the mark, …: by kind. */
  value?: string
  /** Also where the copy is stopped; set by an administrator. */
  inEveryLane?: boolean
}

export const EFFECT_KINDS = Object.keys(KINDS) as EffectKind[]

for (const name of EFFECT_KINDS)
  if (KINDS[name].name !== name) throw new Error(`The kind of effect “${KINDS[name].name}” is registered as “${name}”.`)

/** What is known of a kind of effect. */
export function effectKindOf(kind: EffectKind): EffectKindOf<EffectKind> {
  return KINDS[kind]
}

/** Whether of two effects only the first can be done. */
export function areRivals(a: Effect, b: Effect): boolean {
  return a.kind === b.kind && KINDS[a.kind].rivals(a.value, b.value)
}

/** Whether an effect is done wherever the copy goes. */
export function isAlwaysDone(effect: Effect): boolean {
  return KINDS[effect.kind].always || effect.inEveryLane === true
}

/** Whether the product does it. */
export function isCarriedOut(kind: EffectKind): boolean {
  const { onCopy, onMessage } = effectKindOf(kind)
  return onCopy !== undefined || onMessage !== undefined
}

/** What effects come to on a copy where it lies. */
export function effectsOnCopy(effects: readonly Effect[], copy: CopyEffects): CopyEffects {
  return effects.reduce((done, { kind, value }) => effectKindOf(kind).onCopy?.(done, value ?? '') ?? done, copy)
}

/** What effects come to on the message when it is handed out. */
export function effectsOnMessage(effects: readonly Effect[]): DeliveredEffects {
  return effects.reduce<DeliveredEffects>((done, { kind, value }) => effectKindOf(kind).onMessage?.(done, value ?? '') ?? done, {
    headers: [],
    before: null,
  })
}

/** An effect as a command. */
export function effectWords({ kind, value }: Effect): string {
  return effectKindOf(kind).words(value)
}

export type { EffectForm } from './kind'
