import sanitizeHtml from 'sanitize-html'
import { Parser } from 'htmlparser2'
import { htmlBody, trueTarget } from '#core/message'

const LARGEST = 2 * 1024 * 1024

/**
 * The HTML of a message made harmless: no scripts, handlers, forms, styles sheets or anything fetched from elsewhere.
 * It is shown in a sandboxed frame besides. Null where there is none, or where it is too large to show.
 */
export async function safeHtml(source: Uint8Array): Promise<string | null> {
  const html = await htmlBody(source)
  if (!html || html.length > LARGEST) return null
  const harmless = sanitizeHtml(html, {
    allowedTags: [
      'a',
      'abbr',
      'b',
      'blockquote',
      'br',
      'caption',
      'center',
      'cite',
      'code',
      'col',
      'colgroup',
      'dd',
      'del',
      'div',
      'dl',
      'dt',
      'em',
      'font',
      'h1',
      'h2',
      'h3',
      'h4',
      'h5',
      'h6',
      'hr',
      'i',
      'ins',
      'li',
      'ol',
      'p',
      'pre',
      's',
      'small',
      'span',
      'strong',
      'sub',
      'sup',
      'table',
      'tbody',
      'td',
      'tfoot',
      'th',
      'thead',
      'tr',
      'u',
      'ul',
    ],
    allowedAttributes: {
      '*': ['align', 'bgcolor', 'color', 'colspan', 'dir', 'lang', 'rowspan', 'style', 'title', 'valign', 'width'],
      'a': ['href', 'name'],
    },
    allowedStyles: {
      '*': Object.fromEntries(
        [
          'background-color',
          'border',
          'color',
          'display',
          'font-family',
          'font-size',
          'font-style',
          'font-weight',
          'margin',
          'padding',
          'text-align',
          'text-decoration',
          'visibility',
        ].map(p => [p, [/^(?!.*(?:url|expression|image)\s*\().*$/i]]),
      ),
    },
    allowedSchemes: ['http', 'https', 'mailto'],
    allowProtocolRelative: false,
    disallowedTagsMode: 'discard',
    transformTags: {
      a: (tagName, { href, ...others }) => ({
        tagName,
        attribs: {
          ...others,
          ...(href === undefined ? {} : { href, ...(SHOWN_SCHEME.test(href) ? { title: href } : {}) }),
          rel: 'noreferrer noopener',
          target: '_blank',
        },
      }),
    },
  })
  return withTrueTargets(harmless)
}

/** Says behind each link where it leads, if its text names another place. Of HTML that was made harmless. */
function withTrueTargets(html: string): string {
  const open: { href: string, text: string }[] = []
  const pieces: string[] = []
  let done = 0
  const parser: Parser = new Parser({
    onopentag(name, { href }) {
      if (name === 'a') open.push({ href: href ?? '', text: '' })
    },
    ontext(text) {
      const link = open.at(-1)
      if (link && link.text.length < LONGEST_LINK) link.text += text
    },
    onclosetag(name) {
      const link = name === 'a' ? open.pop() : undefined
      const target = link ? trueTarget(link.text, link.href) : null
      if (target === null) return
      pieces.push(
        html.slice(done, parser.endIndex + 1),
        `<span style="${TARGET_STYLE}"> (leads to ${sanitizeHtml(target, { allowedTags: [], disallowedTagsMode: 'escape' })})</span>`,
      )
      done = parser.endIndex + 1
    },
  })
  parser.end(html)
  return pieces.join('') + html.slice(done)
}

/** The others are taken away. */
const SHOWN_SCHEME = /^(?:https?|mailto):/i
const LONGEST_LINK = 4000
const TARGET_STYLE = 'display:inline;visibility:visible;font:13px sans-serif;color:#8a2f14;background-color:#fff;text-decoration:none'
