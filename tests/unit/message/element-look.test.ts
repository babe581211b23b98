import { describe, expect, it } from 'vitest'
import { isLost, over, readColour, WHITE, BLACK, coloursIn, type Colour } from '../../../core/message/colours'
import { isHidden, lookOf, PAGE } from '../../../core/message/element-look'
import { OpenElements } from '../../../core/message/open-elements'
import { StyleSheet, type Element } from '../../../core/message/style-sheet'
import { TextFlow } from '../../../core/message/text-flow'

describe('colours: white words on white would be taken for shown, or shown ones for hidden', () => {
  // CSS Color 4, 6.1 (named colours) and 5 (functions); the HTML standard's legacy colours; from memory.
  it.each<[string, Colour | null]>([
    ['#fff', [255, 255, 255, 1]],
    ['#FFFFFF', [255, 255, 255, 1]],
    ['ffffff', [255, 255, 255, 1]],
    ['fff', [255, 255, 255, 1]],
    ['rebeccapurple', [102, 51, 153, 1]],
    ['PapayaWhip', [255, 239, 213, 1]],
    ['rgb(1, 2, 3)', [1, 2, 3, 1]],
    ['rgba(1,2,3,0.5)', [1, 2, 3, 0.5]],
    ['hsl(120, 100%, 25%)', [0, 128, 0, 1]],
    ['hsl(0, 0%, 100%)', [255, 255, 255, 1]],
    ['hsla(240, 100%, 50%, 0.5)', [0, 0, 255, 0.5]],
    ['transparent', [0, 0, 0, 0]],
    ['', null],
    ['no-such-colour', null],
    ['url(x)', null],
    ['x'.repeat(10_000), null],
  ])('%s', (text, colour) => expect(readColour(text)).toEqual(colour))
  it('contrast as WCAG 2.2 computes it: grey #767676 on white is 4.54 to 1 and read by everybody', () => {
    expect(isLost(readColour('#767676')!, WHITE)).toBe(false)
    // Hardly any contrast and the same hue is lost; the same lightness in another hue is not.
    for (const pale of ['#fefefe', '#fdfdfd', '#f8f8f8', '#fffff0'])
      expect([pale, isLost(readColour(pale)!, WHITE)]).toEqual([pale, true])
    for (const seen of ['#ccc', '#bbbbbb', 'yellow', 'aqua'])
      expect([seen, isLost(readColour(seen)!, WHITE)]).toEqual([seen, false])
    expect(isLost(readColour('#ff0000')!, readColour('#007a00')!)).toBe(false)
    expect(isLost(BLACK, readColour('#050505')!)).toBe(true)
  })
  it('what hardly covers looks like its ground', () => {
    expect(over([0, 0, 0, 0.5], WHITE)).toEqual([127.5, 127.5, 127.5, 1])
    expect(isLost([0, 0, 0, 0.05], WHITE)).toBe(true)
  })
  it('finds the colours of a background among other words', () => {
    expect(coloursIn('no-repeat #abc')).toEqual([[170, 187, 204, 1]])
    expect(coloursIn('linear-gradient(to right, white, rgb(1,2,3))')).toEqual([
      [255, 255, 255, 1],
      [1, 2, 3, 1],
    ])
  })
})

describe('looks: what a style hides', () => {
  const read = (css: string) => new StyleSheet(100).styleOf({ name: 'p', attributes: { style: css } }, [])
  const hidden = (css: string, parent = PAGE) => isHidden(lookOf({ name: 'p', attributes: {}, style: read(css) }, parent, null))
  it.each([
    'display:none',
    'DISPLAY : NONE !important',
    'visibility:hidden',
    'visibility:collapse',
    'opacity:0',
    'opacity:5%',
    'filter:opacity(0)',
    'font-size:0',
    'font-size:1px',
    'font-size:.05em',
    'font-size:5%',
    'font:italic 0/0 a',
    'font:bold .5px serif',
    'font-size:calc(1px - 1px)',
    'overflow:hidden;height:0',
    'overflow:hidden;max-height:1px',
    'overflow-y:scroll;height:0px',
    'position:absolute;left:-9999px',
    'position:fixed;top:-100em',
    'text-indent:-1000px',
    'margin-left:-900pt',
    'margin:0 0 0 -9999px',
    'transform:scale(0)',
    'transform:translateX(-9999px)',
    'clip:rect(0 0 0 0)',
    'clip:rect(1px, 1px, 1px, 1px)',
    'clip-path:inset(50%)',
    'color:white',
    'color:hsl(0, 0%, 100%)',
    'color:transparent',
    'color:black;-webkit-text-fill-color:#ffffff',
    'background:black',
  ])('%s', css => expect(hidden(css)).toBe(true))
  it.each([
    '',
    'display:block',
    'opacity:0.9',
    'font-size:12px',
    'font-size:small',
    'font-size:0.9em',
    'font:12px/1.5 serif',
    'font:bold 700 14px a',
    'height:0',
    'overflow:hidden;height:20px',
    'overflow:hidden;width:100%',
    'position:absolute;left:10px',
    'left:-9999px',
    'text-indent:2em',
    'margin:-4px',
    'transform:scale(0.5)',
    'clip:auto',
    'color:#777',
    'background:url(x.png);color:white',
    'background:black;color:white',
    'display:none;display:block',
  ])('“%s” is shown', css => expect(hidden(css)).toBe(false))
  it('visibility comes back inside, display does not', () => {
    const inside = (css: string) => lookOf({ name: 'div', attributes: {}, style: read(css) }, PAGE, null)
    expect(hidden('visibility:visible', inside('visibility:hidden'))).toBe(false)
    expect(hidden('display:block', inside('display:none'))).toBe(true)
    expect(hidden('font-size:14px', inside('font-size:0'))).toBe(false)
    expect(hidden('font-size:2em', inside('font-size:0'))).toBe(true)
    expect(hidden('color:white', inside('background:navy'))).toBe(false)
    expect(hidden('', inside('background:navy;color:navy'))).toBe(true)
  })
})

describe('style sheets: a class would hide what we take for shown', () => {
  const styleOf = (css: string, name: string, attributes: Record<string, string>, above: Element[] = []) => {
    const sheet = new StyleSheet(10_000)
    sheet.add(css)
    return sheet.styleOf({ name, attributes }, above)
  }
  it('the more specific selector, the later rule, the style attribute, and what is important (CSS Cascade 3, 6)', () => {
    const css = 'p{color:red} .a{color:blue} #i{color:green} p.a{color:navy}'
    expect(styleOf(css, 'p', {}).color).toBe('red')
    expect(styleOf(css, 'p', { class: 'x a' }).color).toBe('navy')
    expect(styleOf(css, 'p', { class: 'a', id: 'i' }).color).toBe('green')
    expect(styleOf(css, 'p', { style: 'color:pink' }).color).toBe('pink')
    expect(styleOf('p{color:red!important}', 'p', { style: 'color:pink' }).color).toBe('red')
    expect(styleOf('p{color:red!important}', 'p', { style: 'color:pink !important' }).color).toBe('pink')
    expect(styleOf('p{color:red}p{color:blue}', 'p', {}).color).toBe('blue')
  })
  it('what an element lies in', () => {
    const inside: Element[] = [
      { name: 'div', attributes: { class: 'a' } },
      { name: 'span', attributes: {} },
    ]
    expect(styleOf('.a b{display:none}', 'b', {}, inside).display).toBe('none')
    expect(styleOf('.a > b{display:none}', 'b', {}, inside).display).toBeUndefined()
    expect(styleOf('span > b{display:none}', 'b', {}, inside).display).toBe('none')
    expect(styleOf('.c b{display:none}', 'b', {}, inside).display).toBeUndefined()
  })
  it.each<[string, Record<string, string>, boolean]>([
    ['[hidden-x]', { 'hidden-x': '' }, true],
    ['[a=b]', { a: 'b' }, true],
    ['[a=b]', { a: 'c' }, false],
    ['[a~="b"]', { a: 'x b' }, true],
    ['[a^=b]', { a: 'bc' }, true],
    ['[a$=b]', { a: 'cb' }, true],
    ['[a*=b]', { a: 'abc' }, true],
    ['[a*=""]', { a: 'c' }, false],
    ['[a|=en]', { a: 'en-GB' }, true],
    ['*', {}, true],
    ['a, p', {}, true],
    ['@import "x"; p', {}, true],
    // What somebody has to do first, and what is no element.
    ['p:hover', {}, false],
    ['p::before', {}, false],
    // What is not known here counts where it hides.
    ['p:first-child', {}, true],
    ['div + p', {}, true],
  ])('%s', (selector, attributes, hides) => {
    expect(styleOf(`${selector}{display:none}`, 'p', attributes).display === 'none').toBe(hides)
  })
  it('media that everybody has count; sizes and paper do not', () => {
    for (const media of ['screen', 'all', 'only screen', 'print, screen'])
      expect([media, styleOf(`@media ${media}{p{display:none}}`, 'p', {}).display]).toEqual([media, 'none'])
    for (const media of ['print', '(max-width: 600px)', 'screen and (min-width: 1px)'])
      expect([media, styleOf(`@media ${media}{p{display:none}}`, 'p', {}).display]).toEqual([media, undefined])
  })
  it('escapes, comments and broken rules are read as a browser reads them', () => {
    expect(styleOf('p{d\\69splay:no\\6e e}', 'p', {}).display).toBe('none')
    expect(styleOf('p{/* x */display/**/:/**/none}', 'p', {}).display).toBe('none')
    expect(styleOf('p{color:;;display:none;x', 'p', {}).display).toBe('none')
    expect(styleOf('<!-- p{display:none} -->', 'p', {}).display).toBe('none')
  })
  it('sheets beyond any use leave everything in doubt', () => {
    const sheet = new StyleSheet(10)
    sheet.add('.a{color:red}'.repeat(20))
    for (let i = 0; i < 5; i++) sheet.styleOf({ name: 'p', attributes: { class: 'a' } }, [])
    expect(sheet.inDoubt).toBe(true)
    const long = new StyleSheet(10)
    long.add(' '.repeat(2_000_000))
    expect(long.inDoubt).toBe(true)
  })
})

describe('open elements (HTML standard 13.2.6): what is hidden would end too early or too late', () => {
  const after = (...tags: string[]) => {
    const open = new OpenElements<string>('')
    for (const tag of tags) {
      if (tag.startsWith('/')) open.close(tag.slice(1))
      else {
        open.closeBefore(tag, true)
        open.open(tag, tag)
      }
    }
    return open.all.join(' ')
  }
  it.each<[string[], string]>([
    [['p', 'p'], 'p'],
    [['p', 'div'], 'div'],
    [['p', 'span', 'div'], 'div'],
    [['p', 'table'], 'p table'],
    [['li', 'li'], 'li'],
    [['ul', 'li', 'ul', 'li'], 'ul li ul li'],
    [['ul', 'li', 'p', 'li'], 'ul li'],
    [['table', 'tr', 'td', 'tr'], 'table tr'],
    [['table', 'tr', 'td', 'table', 'tr', 'td'], 'table tr td table tr td'],
    [['table', 'tr', 'td', 'p', 'td'], 'table tr td'],
    [['dl', 'dt', 'dd'], 'dl dd'],
    [['select', 'option', 'option'], 'select option'],
    [['div', 'b', '/div'], ''],
    [['span', 'div', '/span'], 'span div'],
    [['b', 'i', '/b'], ''],
    [['div', '/p'], 'div'],
    [['div', '/span'], 'div'],
    [['div', 'table', 'td', '/div'], 'div table td'],
    [['td', 'p', '/td'], ''],
    [['table', 'td', '/table'], ''],
  ])('%j leaves “%s”', (tags, open) => expect(after(...tags)).toBe(open))
  it('says so where elements lie deeper than anybody looks', () => {
    const open = new OpenElements<number>(0)
    for (let i = 0; i < 10_005; i++) open.open('div', i)
    expect([open.isTooDeep, open.all.length]).toEqual([true, 10_000])
    for (let i = 0; i < 5; i++) open.close('div')
    expect(open.isTooDeep).toBe(false)
  })
})

describe('laid out text: two words would become one, or one two', () => {
  const flow = (run: (f: TextFlow) => void) => {
    const f = new TextFlow()
    run(f)
    return f.text()
  }
  it('folds white space of HTML and keeps every other space', () => {
    expect(flow(f => f.add(' \t\r\n a \f b ', false))).toBe('a b')
    expect(flow(f => f.add('a\u00A0b\u2003c', false))).toBe('a\u00A0b\u2003c')
    expect(flow(f => f.add('a\r\n b', true))).toBe('a\n b')
  })
  it('blocks on lines of their own, once', () => {
    expect(
      flow((f) => {
        f.block()
        f.add('a', false)
        f.block()
        f.block()
        f.add('b', false)
        f.newline()
        f.newline()
        f.add('c', false)
      }),
    ).toBe('a\nb\n\nc')
  })
  it('is the same however many pieces it came in', () => {
    const pieces = Array.from({ length: 30_000 }, (_, i) => `w${i} `)
    expect(flow(f => pieces.forEach(p => f.add(p, false)))).toBe(pieces.join('').trim())
  })
})
