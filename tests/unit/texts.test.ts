// Texts for people: a word that is no one's but ours sends people looking in the wrong place.
import { readFileSync } from 'node:fs'
import { describe, expect, it } from 'vitest'
import { GLOSSARY, glossaryId } from '../../app/composables/glossary'
import { RETIRED_WORDS, retiredWordsIn } from '../../scripts/lib/retired-words.mjs'
import { sourceFiles } from '../../scripts/lib/source-files.mjs'
import { buttonsOf, textsOf } from '../../scripts/lib/texts.mjs'

const read = (path: string) => readFileSync(new URL(`../../${path}`, import.meta.url), 'utf8')
// What the people of the demo write is mail.
const FILES = sourceFiles().filter(p => !p.startsWith('server/demo/'))
const TEXTS = FILES.flatMap(path => textsOf(path, read(path)).map(t => ({ ...t, at: `${path}:${t.line}` })))
// Commands that are shown have the demo's mail in them.
const DOCS = ['README.md', 'docs/using.md'].flatMap(path =>
  read(path).replace(/^ *```[^`]*```/gm, '').split('\n').map(text => ({ text, at: path })))
const without = (all: readonly { text: string, at: string }[], wrong: RegExp) =>
  all.filter(t => wrong.test(t.text)).map(t => `${t.at}: ${t.text}`)

describe('texts for people', () => {
  it('are found: templates, their attributes and expressions, message modules, the core, the server and the command line', () => {
    expect(TEXTS.length).toBeGreaterThan(2000)
    for (const text of [
      'Search entries', // an attribute
      'No matching entries.', // a template
      'Enter a name for the list.', // a script of a component
      'No message selected. Use ↑ ↓ to select one, Enter to open it, Space to select several.',
      'comes after ${…}',
      'You can change only your own lists and rules. Propose this change to an administrator.',
      '5.1.1 Mailbox ${…} does not exist',
      'print the facts of each message file (RFC 5322), as JSON Lines',
    ]) expect(TEXTS.map(t => t.text)).toContain(text)
  })
  it('have no retired word', () => {
    const found = [...TEXTS, ...DOCS].flatMap(({ at, text }) =>
      retiredWordsIn(text).map(word => `${at}: “${word}” is ${RETIRED_WORDS[word]}: ${text}`))
    expect(found).toEqual([])
  })
  it('the list finds whole words, spelt otherwise too, and no part of one', () => {
    expect(retiredWordsIn('Somebody’s clauses are in\nforce; WATCHING it, leave it.')).toEqual(
      expect.arrayContaining(['clauses', 'in force', 'watching', 'leave it']),
    )
    expect(retiredWordsIn('Warehouses, judgemental readership: useful; the plane leaves items.')).toEqual([])
  })
  it('have no blank before … or %, and figures come from one helper', () => {
    expect(without(TEXTS.filter(t => t.at.startsWith('app/')), /\p{L} …|\} %/u)).toEqual([])
    const own = FILES.filter(
      p => !p.startsWith('core/wording/') && /\.toLocale(?:Date|Time)?String\(|new Intl\.(?:Number|Plural)/.test(read(p)),
    )
    expect(own).toEqual([])
  })
  it('on buttons are in sentence case', () => {
    const buttons = FILES.filter(p => p.endsWith('.vue')).flatMap(p => buttonsOf(p, read(p)).map(b => ({ ...b, at: `${p}:${b.line}` })))
    expect(buttons.length).toBeGreaterThan(100)
    // “× ” closes, an expression says it itself, and what a filter is narrowed by begins as it likes.
    const odd = buttons.filter(b => !/^(?:\+ )?(?:\p{Lu}|\$\{|×)/u.test(b.text) && !b.text.endsWith('×') && b.text !== '')
    expect(odd.map(b => `${b.at}: ${b.text}`)).toEqual([])
  })
})

describe('the glossary', () => {
  const components = FILES.filter(p => p.startsWith('app/')).map(read).join('\n')
  const help = read('docs/using.md')
  it.each(Object.keys(GLOSSARY) as (keyof typeof GLOSSARY)[])('“%s” is linked from where it stands, on a page', (term) => {
    expect(components).toMatch(new RegExp(`term="${term}"|'${term}'`))
    expect(GLOSSARY[term].text).toMatch(/^[A-Z].*\.$/)
  })
  it('has every term to which the help leads', () => {
    const ids = new Set((Object.keys(GLOSSARY) as (keyof typeof GLOSSARY)[]).map(glossaryId))
    const named = [...help.matchAll(/\(#(glossary-[a-z-]+)\)/g)].map(m => m[1]!)
    expect(named.length).toBeGreaterThan(10)
    expect(named.filter(id => !ids.has(id))).toEqual([])
  })
})
