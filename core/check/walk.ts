import { groupMembers, type Condition } from '../policy'

/** A condition and all that stand in it. */
export function* walk(c: Condition): Generator<Condition> {
  yield c
  for (const m of groupMembers(c) ?? []) yield* walk(m)
}
