import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { buildEntryTable, EntryTable, EntryTableBuilder, makeAddress, type Entry, type EntryKind } from '#core'

const VALUES: Record<EntryKind, string[]> = {
  address: ['a@x.test', 'b@x.test', 'ü@x.test'],
  domain: ['x.test', 'y.test'],
  domainAndSubdomains: ['test', 'x.test'],
  pattern: ['*@x.test'],
  words: ['otter'],
  contains: ['tter'],
  mailingList: ['news.x.test'],
  signedBy: ['x.test', 'y.test'],
  network: ['192.0.2.0/24', '2001:db8::/32'],
  everyone: [''],
}
const row = fc.constantFrom(...(Object.keys(VALUES) as EntryKind[])).chain(kind =>
  fc.record({
    list: fc.nat(3),
    kind: fc.constant(kind),
    value: fc.constantFrom(...VALUES[kind]),
    expires: fc.constantFrom(undefined, '2026-11-24T09:00:00.000Z'),
    stays: fc.boolean(),
    later: fc.boolean(),
  }),
)

const shown = (table: EntryTable) =>
  Array.from({ length: table.data.count }, (_, i) => [table.listOf(i), table.entry(i)])
const found = (table: EntryTable) => {
  const out: [string, number][] = []
  for (const sender of ['a@x.test', 'b@x.test', 'ü@x.test', 'c@y.test'])
    table.find(makeAddress(sender), i => out.push([sender, i]))
  for (const client of ['192.0.2.7', '2001:db8::7', '203.0.113.7'])
    table.findForMessage({ address: makeAddress(''), listId: 'news.x.test', client, signers: ['x.test'] }, i => out.push([client, i]))
  return out
}

describe('the table of entries: after a change to one entry of a million, another would be missed', () => {
  it('what is taken over and changed is as if built anew', () => {
    fc.assert(
      fc.property(
        fc.array(row, { maxLength: 30 }),
        fc.constantFrom([0, 1, 2, 3], [3, 2, 1, 0], [-1, 0, 1, -1]),
        (rows, lists) => {
          const all = rows.map((r, i) => ({
            ...r,
            entry: { id: `e${i}`, kind: r.kind, value: r.value, ...(r.expires ? { expires: r.expires } : {}) } as Entry,
          }))
          const [before, later] = [
            all.filter(r => !r.later),
            all.filter(r => r.later && lists[r.list]! >= 0).map(r => ({ ...r, list: lists[r.list]! })),
          ]
          const earlier = buildEntryTable(before)
          const gone = new Set(before.filter(r => !r.stays).map(r => earlier.indexOf(r.list, r.entry)))
          expect(gone.has(-1)).toBe(false)
          const builder = new EntryTableBuilder()
          builder.takeOver(earlier.data, gone, lists)
          for (const r of later) builder.add(r.list, r.entry)
          const changed = new EntryTable(builder.finish())
          const anew = buildEntryTable([
            ...before.filter(r => r.stays && lists[r.list]! >= 0).map(r => ({ ...r, list: lists[r.list]! })),
            ...later,
          ])
          expect([shown(changed), found(changed), changed.scanned]).toEqual([shown(anew), found(anew), anew.scanned])
        },
      ),
      { seed: 8, numRuns: 2000 },
    )
  })
  it('knows an entry by all of id, kind and value', () => {
    const table = buildEntryTable([
      { list: 0, entry: { id: 'e', kind: 'domain', value: 'x.test' } },
      { list: 1, entry: { id: 'e', kind: 'pattern', value: '*@x.test' } },
    ])
    expect([
      table.indexOf(0, { id: 'e', kind: 'domain', value: 'x.test' }),
      table.indexOf(1, { id: 'e', kind: 'pattern', value: '*@x.test' }),
    ]).toEqual([0, 1])
    for (const [list, id, kind, value] of [
      [1, 'e', 'domain', 'x.test'],
      [0, 'f', 'domain', 'x.test'],
      [0, 'e', 'address', 'x.test'],
      [0, 'e', 'domain', 'y.test'],
      [0, 'e', 'pattern', '*@x.test'],
      [-1, 'e', 'domain', 'x.test'],
    ] as const)
      expect(table.indexOf(list, { id, kind, value })).toBe(-1)
  })
})
