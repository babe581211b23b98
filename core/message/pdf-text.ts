import { getDocumentProxy } from 'unpdf'

const MOST_PAGES = 50

/**
 * The text of a PDF document (ISO 32000), line by line, of its first 50 pages or as much as is asked for.
 * @param most UTF-16 units
 * @throws where the document is malformed or needs a password
 */
export async function pdfText(bytes: Uint8Array, most: number): Promise<string> {
  // The reader takes the buffer over; the message keeps its own. Nothing in a document is ever run.
  const document = await getDocumentProxy(bytes.slice(), { isEvalSupported: false, enableXfa: false, stopAtErrors: false, verbosity: 0 })
  try {
    let text = ''
    for (let number = 1; number <= Math.min(document.numPages, MOST_PAGES) && text.length < most; number++) {
      const page = await document.getPage(number)
      const { items } = await page.getTextContent()
      for (const item of items) if ('str' in item) text += item.hasEOL ? `${item.str}\n` : item.str
      text += '\n'
      page.cleanup()
    }
    return text
  }
  finally {
    await document.destroy()
  }
}
