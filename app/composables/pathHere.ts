/**
 * A path of this site, of whatever an address names as the page to go on to; else the first page. It is read as the browser reads it,
 * which takes a backslash for a slash and leaves tabs out.
 */
export function pathHere(to: string, origin = location.origin): string {
  if (!to.startsWith('/') || !URL.canParse(to, origin)) return '/'
  const url = new URL(to, origin)
  // A path of the form //host is another site again.
  return url.origin === origin && !url.pathname.startsWith('//') ? url.pathname + url.search + url.hash : '/'
}
