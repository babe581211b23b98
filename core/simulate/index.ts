export { asIfEnabled } from './as-if-enabled'
export { broadness, isNarrow, type Affected, type Stopped } from './broad-changes'
export { differingIn, ownersOf, type BothSides } from './differing'
export {
  endsDifferently,
  isWhole,
  landing,
  ImpactCounter,
  type Crossing,
  type Crossings,
  type CopyFacts,
  type Ending,
  type Impact,
  type ImpactCounts,
  type LaneChange,
  type Looked,
  type Marks,
} from './impact'
export { keysOfRules, lookupKeysOf, SEARCHED_PLACES, type Lookup, type LookupKeys } from './lookup-keys'
export { movedRules, pairOf, simulateCopy, simulateEach, type Pair, type Simulated } from './simulate'
export { partsOf, PartCounter, type Part, type PartImpact } from './parts'
export { affectedScope, type AffectedScope } from './affected-scope'
export { wilson } from './wilson'
