import { RE2JS } from 're2js'

/** Steps of a compiled expression; each may cost a look at every character. "(.*.*){1,900}" has tens of thousands. */
export const MAX_STEPS = 500
/** Characters times steps that one expression may cost in one text. */
const MAX_WORK = 20_000_000

/** An expression ready for use; it runs over the plain view, so case does not count and white space is one space. */
export interface Expression {
  pattern: RE2JS
  /** A literal that every match holds, in the plain view; null where none of three characters or more is sure. */
  literal: string | null
  /** UTF-16 units of a text that it is given: the larger it is, the fewer. */
  mostText: number
}

/** Reads an expression in RE2 syntax (linear time). */
export function compileExpression(source: string): Expression | { error: string } {
  try {
    const pattern = RE2JS.compile(source, RE2JS.CASE_INSENSITIVE)
    const steps = pattern.programSize()
    if (steps > MAX_STEPS)
      return {
        error: `it is too complex (${steps} steps when compiled; at most ${MAX_STEPS}). Use fewer repetitions, or look for a part of it`,
      }
    return { pattern, literal: requiredLiteral(source), mostText: Math.ceil(MAX_WORK / steps) }
  }
  catch (error) {
    return { error: error instanceof Error ? error.message : String(error) }
  }
}

const MIN_LITERAL = 3

/**
 * The longest run of plain letters, digits and spaces that every match must hold. Careful rather than clever: anything
 * but a plain sequence at the top level ends a run; an alternation at the top level gives none.
 */
export function requiredLiteral(source: string): string | null {
  let best = ''
  let run = ''
  let depth = 0
  const end = () => {
    if (run.length > best.length) best = run
    run = ''
  }
  for (let i = 0; i < source.length; i++) {
    const c = source[i]!
    if (c === '\\') {
      end()
      // \Q…\E and classes such as \pL reach further than one character; nothing after them is sure.
      if (/[QpPx0-9]/.test(source[i + 1] ?? '')) return best.length >= MIN_LITERAL && depth === 0 && !source.includes('|') ? best : null
      i++
    }
    else if (c === '[') {
      end()
      const close = source.indexOf(']', i + 2)
      if (close < 0) return null
      i = close
    }
    else if (c === '(') {
      end()
      depth++
    }
    else if (c === ')') {
      end()
      depth--
    }
    else if (c === '|') {
      if (depth === 0) return null
    }
    else if (c === '?' || c === '*' || c === '{') {
      run = run.slice(0, -1)
      end()
      if (c === '{') i = Math.max(i, source.indexOf('}', i))
    }
    else if (c === '+') {
      end()
    }
    else if (depth === 0 && /[a-z0-9 ]/i.test(c)) {
      run += c.toLowerCase()
    }
    else {
      end()
    }
  }
  end()
  best = best.trim().replace(/ {2,}.*/, '')
  return best.length >= MIN_LITERAL ? best : null
}
