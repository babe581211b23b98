import { canonicalNetwork, inNetwork, ipBytes } from '../../message'
import { entryKind, short } from './kind'

/** IPv4 and IPv6: a network of this length or shorter is whole organisations, or a site and more (RFC 6177). */
const WIDE = { four: 15, six: 48 }
/** Added to the prefix length of an IPv6 network. */
const SIX = 1000

/** CIDR, over the client address. */
export const network = entryKind({
  name: 'network',
  label: 'IP network',
  line: 'network',
  example: '192.0.2.0/24',
  of: 'message',
  canonical: text => canonicalNetwork(text) ?? { error: `“${short(text)}” is not a network. Write it as 192.0.2.0/24 or 2001:db8::/32.` },
  looksLike: line => /^[0-9a-f:.]+\/\d{1,3}$/i.test(line),
  catches: (value, { client }) => client !== null && inNetwork(client, value),
  lookup: {
    ask({ client }, asked, lengths) {
      const bytes = client === null || !lengths.length ? null : ipBytes(client)
      if (!bytes) return
      for (const code of lengths) if ((code >= SIX) === (bytes.length === 16)) asked(canonicalNetwork(`${client}/${code % SIX}`) ?? '')
    },
    variant(value) {
      const [address, length] = value.split('/') as [string, string]
      return Number(length) + (address.includes(':') ? SIX : 0)
    },
  },
  rank: 8,
  within: value => -Number(value.split('/')[1]),
  verifiable: () => true,
  domain: () => null,
  wider: () => [],
  doubt: (value) => {
    const [address, length] = value.split('/') as [string, string]
    if (address.includes(':'))
      return Number(length) <= WIDE.six ? `${value} covers at least 65,536 networks, as many as a whole site or more` : null
    return Number(length) <= WIDE.four ? `${value} covers more than 65,536 addresses` : null
  },
  words: value => `network ${value}`,
})
