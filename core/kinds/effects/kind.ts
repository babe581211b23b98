/** What of a copy an effect changes where it lies. */
export interface CopyEffects {
  tags: string[]
  important: boolean
  subject: string
}

/** What of a message an effect changes when it is handed out. */
export interface DeliveredEffects {
  /** Header lines that are put on top. */
  headers: string[]
  /** Put before the subject. */
  before: string | null
}

/** How an effect is filled in: as one text, from which its values are read. */
export interface EffectForm {
  /** The name of its Vue field in app/components/kinds/effects. */
  field: string
  /** Seldom needed: it stands behind *more about it*. */
  further: boolean
  /** The text for the values that a rule has. */
  written(values: readonly string[]): string
  /** The values that a text comes to; none where the effect is not wanted. */
  read(text: string): string[]
}

/** One value, as it is written. */
export const ONE_VALUE: Pick<EffectForm, 'written' | 'read'> = {
  written: ([value = '']) => value,
  read: text => (text.trim() ? [text.trim()] : []),
}

/** A kind of effect. Everything that the product must know of it stands here. */
export interface EffectKindOf<Name extends string> {
  name: Name
  /** Whether it is told something: which tag, which address, … */
  valued: boolean
  /** Whether two of this kind cannot both be done: the first wins. */
  rivals(a: string | undefined, b: string | undefined): boolean
  /** Done wherever the copy goes, also where it is stopped. */
  always: boolean
  /** An administrator's word: other programs act on it. */
  administrators: boolean
  /** What carries it out; none, and a clause that asks for it is not saved, since it would promise what nobody does. */
  onCopy?(copy: CopyEffects, value: string): CopyEffects
  onMessage?(message: DeliveredEffects, value: string): DeliveredEffects
  /** Null where no form offers it yet. */
  form: EffectForm | null
  /** As a command. @param value undefined where it is a colleague's own, of which only what is done is told */
  words(value: string | undefined): string
}

export function effectKind<const Name extends string>(kind: EffectKindOf<Name>): EffectKindOf<Name> {
  return kind
}

export const never = () => false
export const ever = () => true
