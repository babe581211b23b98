import { belowAll, canonicalDomain } from './domains'
import { entryKind } from './kind'

/** A domain and every domain that ends in it. */
export const domainAndSubdomains = entryKind({
  name: 'domainAndSubdomains',
  label: 'domain and subdomains',
  line: 'domain and subdomains',
  example: 'quayline.example',
  of: 'address',
  canonical: canonicalDomain,
  looksLike: (line, below) => /^\*?\.[^@*?]+$/.test(line) || (below && !/[*?]/.test(line) && (line.startsWith('@') || !line.includes('@'))),
  catches: (value, { address }) => address.domain === value || address.domain.endsWith(`.${value}`),
  lookup: {
    ask({ address: { domain } }, asked) {
      if (!domain) return
      for (let at = 0; at >= 0; at = nextLabel(domain, at)) asked(at ? domain.slice(at) : domain)
    },
  },
  rank: 3,
  within: value => -value.split('.').length,
  verifiable: () => true,
  domain: value => value,
  wider: value => belowAll(value).slice(1),
  doubt: () => null,
  words: value => `@${value} and subdomains`,
})

function nextLabel(domain: string, at: number): number {
  const dot = domain.indexOf('.', at)
  return dot < 0 ? -1 : dot + 1
}
