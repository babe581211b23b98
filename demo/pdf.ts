/**
 * A small PDF document (ISO 32000-1) of one page with these lines on it.
 * @param lines Latin-1 text
 */
export function pdfOf(lines: readonly string[]): Uint8Array {
  const text = lines.map(l => `(${l.replace(/[\\()]/g, '\\$&')}) Tj T*`).join('\n')
  const stream = `BT\n/F1 12 Tf\n14 TL\n72 760 Td\n${text}\nET`
  const objects = [
    '<< /Type /Catalog /Pages 2 0 R >>',
    '<< /Type /Pages /Kids [3 0 R] /Count 1 >>',
    '<< /Type /Page /Parent 2 0 R /MediaBox [0 0 595 842] /Contents 4 0 R /Resources << /Font << /F1 5 0 R >> >> >>',
    `<< /Length ${stream.length} >>\nstream\n${stream}\nendstream`,
    '<< /Type /Font /Subtype /Type1 /BaseFont /Helvetica /Encoding /WinAnsiEncoding >>',
  ]
  let file = '%PDF-1.4\n'
  const offsets = objects.map((object, i) => {
    const at = file.length
    file += `${i + 1} 0 obj\n${object}\nendobj\n`
    return at
  })
  const table = offsets.map(o => `${String(o).padStart(10, '0')} 00000 n \n`).join('')
  file += `xref\n0 ${objects.length + 1}\n0000000000 65535 f \n${table}trailer\n<< /Size ${objects.length + 1} /Root 1 0 R `
    + `>>\nstartxref\n${file.length}\n%%EOF\n`
  return Uint8Array.from(file, c => c.charCodeAt(0))
}
