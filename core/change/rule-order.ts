import { ruleProtects, type Owner, type Rule } from '../policy'

/** A rule in two chains: of all rules, and of its owner's. */
interface Node {
  rule: Rule
  before: Node | null
  after: Node | null
  ownBefore: Node | null
  ownAfter: Node | null
}

interface Own {
  first: Node
  last: Node
  size: number
}

/** The rules of a policy in their order. Each change of it takes constant time, however many rules there are. */
export class RuleOrder {
  #first: Node | null = null
  #last: Node | null = null
  readonly #byId = new Map<string, Node>()
  readonly #own = new Map<Owner, Own>()

  constructor(rules: readonly Rule[]) {
    for (const rule of rules) this.#insert(rule, this.#last, this.#own.get(rule.owner)?.last ?? null)
  }

  get(id: string): Rule | undefined {
    return this.#byId.get(id)?.rule
  }

  /**
   * A rule that exists keeps its place, unless it comes with another owner. A new one that protects becomes the first of its owner's
   * rules, any other the last.
   */
  put(rule: Rule): void {
    const place = this.#byId.get(rule.id)
    if (place?.rule.owner === rule.owner) {
      place.rule = rule
      return
    }
    this.remove(rule.id)
    const own = this.#own.get(rule.owner)
    if (own && ruleProtects(rule)) this.#insert(rule, own.first.before, null)
    else this.#insert(rule, own?.last ?? this.#last, own?.last ?? null)
  }

  /** @returns false where there is no such rule */
  remove(id: string): boolean {
    const place = this.#byId.get(id)
    if (!place) return false
    const { before, after, ownBefore, ownAfter } = place
    if (before) before.after = after
    else this.#first = after
    if (after) after.before = before
    else this.#last = before
    if (ownBefore) ownBefore.ownAfter = ownAfter
    if (ownAfter) ownAfter.ownBefore = ownBefore
    const own = this.#own.get(place.rule.owner)!
    own.size--
    if (!ownBefore && ownAfter) own.first = ownAfter
    if (!ownAfter && ownBefore) own.last = ownBefore
    if (!own.size) this.#own.delete(place.rule.owner)
    this.#byId.delete(id)
    return true
  }

  /** Puts the rules of an owner into another order, in the places that they have among all. @returns false where these are not its rules */
  order(owner: Owner, ids: readonly string[]): boolean {
    const rules = ids.map(id => this.get(id))
    const isOwn = (rule: Rule | undefined): rule is Rule => rule?.owner === owner
    if ((this.#own.get(owner)?.size ?? 0) !== ids.length || new Set(ids).size !== ids.length || !rules.every(isOwn)) return false
    let place = this.#own.get(owner)?.first ?? null
    for (const rule of rules) {
      place!.rule = rule
      this.#byId.set(rule.id, place!)
      place = place!.ownAfter
    }
    return true
  }

  /** All of them, in order. */
  rules(): Rule[] {
    const out: Rule[] = []
    for (let place = this.#first; place; place = place.after) out.push(place.rule)
    return out
  }

  /** @param before the place after which it comes among all rules; null for the first */
  #insert(rule: Rule, before: Node | null, ownBefore: Node | null): void {
    const own = this.#own.get(rule.owner)
    const after = before ? before.after : this.#first
    const ownAfter = ownBefore ? ownBefore.ownAfter : (own?.first ?? null)
    const place: Node = { rule, before, after, ownBefore, ownAfter }
    if (before) before.after = place
    else this.#first = place
    if (after) after.before = place
    else this.#last = place
    if (ownBefore) ownBefore.ownAfter = place
    if (ownAfter) ownAfter.ownBefore = place
    if (!own) this.#own.set(rule.owner, { first: place, last: place, size: 1 })
    else {
      own.size++
      if (!ownBefore) own.first = place
      if (!ownAfter) own.last = place
    }
    this.#byId.set(rule.id, place)
  }
}
