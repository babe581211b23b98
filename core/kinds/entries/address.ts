import { domainToAscii, foldLocal, hasTag, splitAddress } from '../../address'
import { belowAll } from './domains'
import { entryKind, short } from './kind'

/** One mailbox. Without a +tag it catches the address with any (RFC 5233). */
export const address = entryKind({
  name: 'address',
  label: 'address',
  line: 'address',
  example: 'name@quayline.example',
  of: 'address',
  canonical(text) {
    const { local, domain } = splitAddress(text)
    const ascii = domainToAscii(domain)
    if (!local || !ascii || /[\s<>]|@$/.test(local))
      return { error: `“${short(text)}” is not a complete address. Write it as name@domain.` }
    return `${foldLocal(local)}@${ascii}`
  },
  looksLike: line => line.includes('@') && !line.startsWith('@'),
  catches: (value, { address: { key, keyWithoutTag } }) => (hasTag(splitAddress(value).local) ? key === value : keyWithoutTag === value),
  lookup: {
    ask({ address: { key, keyWithoutTag } }, asked) {
      asked(key)
      if (keyWithoutTag !== key) asked(keyWithoutTag)
    },
  },
  rank: 0,
  within: () => 0,
  verifiable: () => true,
  domain: value => value.slice(value.lastIndexOf('@') + 1),
  wider: (value) => {
    const domain = value.slice(value.lastIndexOf('@') + 1)
    return [{ kind: 'domain', value: domain }, ...belowAll(domain)]
  },
  doubt: () => null,
  words: value => value,
})
