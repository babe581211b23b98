import { deflateSync } from 'node:zlib'

const HEAD =
  '%PDF-1.4\n1 0 obj\n<< /Type /Catalog /Pages 2 0 R >>\nendobj\n2 0 obj\n<< /Type /Pages /Kids [3 0 R] /Count 1 >>\nendobj\n3 0 obj\n<< '
  + '/Type /Page /Parent 2 0 R /MediaBox [0 0 9 9] /Contents 4 0 R >>\nendobj\n'

/** A PDF that takes far longer to read than anybody waits: 1.5 GB, packed twice, so that the first look does not tell what comes out. */
export function slowPdf(): Buffer {
  const packed = deflateSync(deflateSync(Buffer.alloc(1_500_000_000, ' '), { level: 1 }), { level: 9 })
  return Buffer.concat([
    Buffer.from(`${HEAD}4 0 obj\n<< /Length ${packed.length} /Filter [/FlateDecode /FlateDecode] >>\nstream\n`),
    packed,
    Buffer.from('\nendstream\nendobj\ntrailer\n<< /Root 1 0 R >>\n%%EOF\n'),
  ])
}

/** A message with one document. */
export function withDocument(subject: string, name: string, document: Uint8Array): string {
  return `From: a@elsewhere.example\nSubject: ${subject}\nMIME-Version: 1.0\nContent-Type: multipart/mixed; `
    + `boundary=b\n\n--b\nContent-Type: text/plain\n\nx\n--b\nContent-Type: application/pdf; name="${name}"\nContent-Transfer-Encoding: `
    + `base64\n\n${Buffer.from(document).toString('base64').replace(/.{76}/g, '$&\n')}\n--b--\n`
}
