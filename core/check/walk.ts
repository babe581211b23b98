import { groupMembers, spelledOut, type Condition } from '../policy'

/** A condition and all that stand in it, each sender by itself. */
export function* walk(c: Condition): Generator<Condition> {
  const one = spelledOut(c)
  yield one
  for (const m of groupMembers(one) ?? []) yield* walk(m)
}
