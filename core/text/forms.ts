import { prototypeOf } from './confusables'
import { foldCodePoint } from './folding'

/**
 * Forms in which text is compared. `obfuscated` is two: the skeleton of the folded text, and the fold of the skeleton
 * of the unfolded text; some look-alikes only show in one of them (capital I for l).
 */
export type ViewForm = 'plain' | 'bare' | 'skeleton of fold' | 'fold of skeleton'
export type ViewName = 'plain' | 'bare' | 'obfuscated'

export const FORMS_OF: Record<ViewName, readonly ViewForm[]> = {
  plain: ['plain'],
  bare: ['bare'],
  obfuscated: ['skeleton of fold', 'fold of skeleton'],
}

/** True for forms that see through obfuscated spelling. */
export function seesThrough(form: ViewForm): boolean {
  return form === 'skeleton of fold' || form === 'fold of skeleton'
}

// What continues the unit before it, so that normalisation sees the whole: combining marks, conjoining jamo after the
// first, half-width katakana sound marks.
const CONTINUES = /^[\p{M}\u1160-\u11FF\uD7B0-\uD7FB\uFF9E\uFF9F]/u
const SPACE = /^\s$/u
const INVISIBLE = /^\p{Default_Ignorable_Code_Point}$/u
const LONGEST_CLUSTER = 64
// Common swaps of digits and signs for letters. i and l go together, since 1 stands for both.
const SWAPS: Record<string, string> = {
  '0': 'o',
  '1': 'l',
  '3': 'e',
  '4': 'a',
  '5': 's',
  '7': 't',
  '8': 'b',
  '@': 'a',
  '$': 's',
  '!': 'l',
  'i': 'l',
  'ı': 'l',
}

const swapped = (text: string) => {
  let out = ''
  for (const c of text) out += SWAPS[c] ?? c
  return out
}
const folded = (text: string) => {
  let out = ''
  for (const c of text) out += foldCodePoint(c)
  return out
}
const prototyped = (text: string) => {
  let out = ''
  for (const c of text.normalize('NFD')) out += prototypeOf(c)
  return out
}
const unmarked = (text: string) => text.normalize('NFD').replace(/\p{M}/gu, '').normalize('NFC')

/** What a cluster (a character with what continues it) becomes in a form. */
const TRANSFORM: Record<ViewForm, (cluster: string) => string> = {
  'plain': c => folded(c.normalize('NFKC')).normalize('NFKC'),
  'bare': c => unmarked(folded(c.normalize('NFKC'))),
  'skeleton of fold': c => swapped(unmarked(prototyped(folded(c.normalize('NFKC'))))),
  'fold of skeleton': c => swapped(unmarked(folded(prototyped(c.normalize('NFKC'))))),
}

/** What the characters of a text become in one form. */
export class FormTable {
  /** By code unit: the one unit that it becomes; 0 for what needs a closer look. The table fills as text comes. */
  readonly single = new Uint16Array(65_536)
  private readonly cache = new Map<string, string>()

  constructor(private readonly form: ViewForm) {
    for (let c = 0x21; c < 0x7f; c++) {
      const out = TRANSFORM[form](String.fromCharCode(c))
      if (out.length === 1) this.single[c] = out.charCodeAt(0)
    }
  }

  /** What a cluster (a character with what continues it) becomes. */
  become(cluster: string): string {
    let out = this.cache.get(cluster)
    if (out === undefined) {
      const written = seesThrough(this.form) ? cluster.replace(/\p{Default_Ignorable_Code_Point}/gu, '') : cluster
      out = TRANSFORM[this.form](written).replace(/\s+/gu, ' ')
      if (this.cache.size < 20_000) this.cache.set(cluster, out)
      if (written.length === 1 && cluster.length === 1 && out.length === 1 && standsFree(cluster.charCodeAt(0)) && !SPACE.test(cluster))
        this.single[cluster.charCodeAt(0)] = out.charCodeAt(0)
    }
    return out
  }

  /** Where the cluster ends that begins at that place. */
  clusterEnd(source: string, at: number): number {
    let end = at + characterAt(source, at).length
    while (end < source.length && end - at < LONGEST_CLUSTER) {
      const next = characterAt(source, end)
      if (!CONTINUES.test(next) && !this.passesOver(next)) break
      end += next.length
    }
    return end
  }

  /** True for characters that are as if they were not there. */
  passesOver(character: string): boolean {
    return seesThrough(this.form) && INVISIBLE.test(character)
  }
}

const tables = new Map<ViewForm, FormTable>()

export function tableOf(form: ViewForm): FormTable {
  let found = tables.get(form)
  if (!found) tables.set(form, (found = new FormTable(form)))
  return found
}

/** True for units after which nothing can combine with what stands before them, and that are no white space. */
export function standsFree(unit: number): boolean {
  return unit < 0x300 || (unit >= 0x2010 && unit <= 0x2027) || (unit >= 0x20a0 && unit <= 0x20bf)
}

export function characterAt(source: string, at: number): string {
  return String.fromCodePoint(source.codePointAt(at)!)
}

export function isSpace(source: string, at: number): boolean {
  const unit = source.charCodeAt(at)
  if (unit < 128) return unit === 32 || (unit >= 9 && unit <= 13)
  return unit >= 0xa0 && SPACE.test(source[at]!)
}
