import sanitizeHtml from 'sanitize-html'
import { htmlBody } from '#core/message'

const LARGEST = 2 * 1024 * 1024

/**
 * The HTML of a message made harmless: no scripts, handlers, forms, styles sheets or anything fetched from elsewhere.
 * It is shown in a sandboxed frame besides. Null where there is none, or where it is too large to show.
 */
export async function safeHtml(source: Uint8Array): Promise<string | null> {
  const html = await htmlBody(source)
  if (!html || html.length > LARGEST) return null
  return sanitizeHtml(html, {
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
    transformTags: { a: sanitizeHtml.simpleTransform('a', { rel: 'noreferrer noopener', target: '_blank' }) },
  })
}
