/** An id for something that is made here; also where the page did not come over TLS, and randomUUID is not there. */
export function newId(): string {
  return [...crypto.getRandomValues(new Uint8Array(16))].map(b => b.toString(16).padStart(2, '0')).join('')
}
