import fc from 'fast-check'
import { entryKey, type Condition, type Envelope, type EntryKind, type Policy } from '#core'
import { RELAY, TRUST } from './build'

// A small vocabulary, so that clauses and messages meet often.
const WORDS = ['release', 'fee', 'offers', 'bank', 'details', 'wheat', 'a', 'gale', 'Straße', 'кеу', 're', 'lease']
const DOMAINS = ['x.test', 'sub.x.test', 'partner.example', 'saltmere.example', 'bulk.example']
const LOCALS = ['desk', 'news', 'news+tag', 'oskar', 'chief']

const word = fc.constantFrom(...WORDS)
const phrase = fc.array(word, { minLength: 1, maxLength: 2 }).map(w => w.join(' '))
const address = fc.tuple(fc.constantFrom(...LOCALS), fc.constantFrom(...DOMAINS)).map(([l, d]) => `${l}@${d}`)
const owner = fc.constantFrom('organisation', 'department:accounts', 'department:office', 'person:oskar')
const counts = fc.option(fc.constantFrom('verified' as const, 'notFailed' as const, 'any' as const), { nil: undefined })

const entry: fc.Arbitrary<{ kind: EntryKind, value: string }> = fc.oneof(
  address.map(value => ({ kind: 'address' as const, value })),
  fc.constantFrom(...DOMAINS).map(value => ({ kind: 'domain' as const, value })),
  fc.constantFrom(...DOMAINS, 'test', 'example').map(value => ({ kind: 'domainAndSubdomains' as const, value })),
  fc
    .constantFrom('*@x.test', 'n*s@*', '*bulk*', '?esk@partner.example')
    .map(value => ({ kind: 'pattern' as const, value })),
  fc.constantFrom('desk', 'News Desk', 'bulk', 'harbour').map(value => ({ kind: 'words' as const, value })),
  fc.constantFrom('desk', 'ulk', 'arbou').map(value => ({ kind: 'contains' as const, value })),
  fc.constantFrom('list.bulk.example', 'other.list').map(value => ({ kind: 'mailingList' as const, value })),
  fc
    .constantFrom('203.0.113.0/24', '203.0.0.0/16', '198.51.100.0/24')
    .map(value => ({ kind: 'network' as const, value })),
  fc.constant({ kind: 'everyone' as const, value: '' }),
)

const where = fc.option(
  fc.uniqueArray(
    fc.constantFrom(
      'subject' as const,
      'own' as const,
      'quoted' as const,
      'hidden' as const,
      'sender name' as const,
      'header' as const,
      'header:x-note' as const,
      'link' as const,
      'attachment name' as const,
    ),
    { minLength: 1, maxLength: 3 },
  ),
  { nil: undefined },
)
const view = fc.option(fc.constantFrom('plain' as const, 'bare' as const, 'obfuscated' as const), { nil: undefined })
const near = fc.option(
  fc.record({
    phrases: fc.array(phrase, { minLength: 1, maxLength: 2 }),
    within: fc.option(fc.nat(4), { nil: undefined }),
  }),
  { nil: undefined },
)

/** Without keys that are undefined, as JSON has it. */
const bare = <T>(value: T): T => JSON.parse(JSON.stringify(value)) as T

const leaf: fc.Arbitrary<Condition> = fc.oneof(
  {
    weight: 6,
    arbitrary: fc.record({
      phrases: fc.array(fc.oneof(phrase, fc.record({ text: phrase, weight: fc.constantFrom(0, 0.5, 1, 3), near })), {
        minLength: 1,
        maxLength: 3,
      }),
      where,
      view,
      near,
      whole: fc.option(fc.boolean(), { nil: undefined }),
      minimum: fc.option(fc.constantFrom(1, 2, 3), { nil: undefined }),
    }),
  },
  fc.record({ set: fc.constantFrom('s1', 's2'), where, view }),
  { weight: 2, arbitrary: fc.record({ sender: entry, counts }) },
  {
    weight: 2,
    arbitrary: fc.record({
      sender: fc.uniqueArray(entry, { minLength: 1, maxLength: 3, selector: entryKey }),
      counts,
    }),
  },
  { weight: 3, arbitrary: fc.record({ senderOn: fc.constantFrom('l0', 'l1', 'l2'), counts }) },
  fc.constantFrom<Condition>(
    { recipient: { kind: 'domain', value: 'saltmere.example' } },
    { addressed: 'only me' },
    { addressed: 'not by name' },
    { header: 'x-note' },
    { important: true },
    { mailingList: true },
    { mailingList: 'list.bulk.example' },
    { direction: 'internal' },
    { direction: 'outbound' },
    { authentication: 'pass' },
    { authentication: 'fail' },
    { defect: true },
    { defect: 'no Date' },
    { userName: true },
    { upstreamVerdict: true },
    { upstreamVerdict: 'label' },
    { script: 'Latin' },
    { script: 'Cyrillic' },
    { every: true },
    { attachment: { kind: 'program' } },
    { attachment: { name: '*.exe' } },
    { attachments: { atLeast: 1 } },
    { size: { atLeast: 300 } },
    { date: { of: 'sent', olderThan: 10 } },
    { date: { of: 'received', after: '2026-01-01T00:00:00.000Z' } },
    { expression: 're(lease)? fee' },
    { expression: 'bank.{0,9}details', where: ['subject', 'own'] },
    { expression: '[a-z]{9,}' },
  ),
)
const condition: fc.Arbitrary<Condition> = fc.letrec<{ c: Condition }>(tie => ({
  c: fc.oneof(
    { maxDepth: 3, depthSize: 'small' },
    leaf,
    fc.array(tie('c'), { minLength: 1, maxLength: 3 }).map(all => ({ all })),
    fc.array(tie('c'), { minLength: 1, maxLength: 3 }).map(any => ({ any })),
    fc.array(tie('c'), { minLength: 1, maxLength: 2 }).map(none => ({ none })),
  ),
})).c

const stop = fc.constantFrom(
  { to: 'spam' as const },
  { to: 'bin' as const },
  { to: 'quarantine' as const, quarantine: 'general' },
  { to: 'quarantine' as const, quarantine: 'security' },
  { to: 'erase' as const, confirmed: true },
  { to: 'discard' as const },
  { to: 'refuse' as const, reply: 'no' },
)
const hazards = fc.uniqueArray(
  fc.constantFrom('spam' as const, 'quarantine' as const, 'delete' as const, 'refuse' as const),
  { minLength: 1 },
)
const state = fc.constantFrom('enabled' as const, 'enabled' as const, 'monitor' as const, 'disabled' as const)
const claims = fc.oneof(
  stop.map(s => [{ stop: s }]),
  hazards.map(protect => [{ protect }]),
  fc.constant([{ place: { to: 'lowPriority' as const } }]),
  fc.constant([{ protect: ['spam' as const, 'delete' as const] }, { place: { to: 'inbox' as const } }]),
)
const effects = fc.array(
  fc.constantFrom(
    { effect: { kind: 'tag' as const, value: 't' } },
    { effect: { kind: 'header' as const, value: 'X-A: 1' } },
    { effect: { kind: 'replace' as const, value: 'n' } },
  ),
  { maxLength: 2 },
)

const direction = fc.constantFrom(undefined, undefined, undefined, 'outbound' as const, 'internal' as const)

const rule = fc.record({
  direction,
  owner,
  mandatory: fc.boolean(),
  overridesLists: fc.option(fc.boolean(), { nil: undefined }),
  state,
  when: condition,
  except: fc.array(condition, { maxLength: 2 }),
  claims,
  effects,
  end: fc.option(fc.constant('owner' as const), { nil: undefined }),
  expires: fc.option(fc.constantFrom('2026-01-01T00:00:00.000Z', '2027-01-01T00:00:00.000Z'), { nil: undefined }),
})
const assignment = fc.record({
  direction,
  list: fc.constantFrom('l0', 'l1', 'l2'),
  owner,
  side: fc.constantFrom('allow' as const, 'block' as const),
  mandatory: fc.boolean(),
  state,
  stop,
  protect: fc.option(hazards, { nil: undefined }),
  counts,
})

/** A valid policy in which things meet. */
export const arbitraryPolicy: fc.Arbitrary<Policy> = fc
  .record({
    lists: fc.array(
      fc.record({
        enabled: fc.integer({ min: 0, max: 5 }).map(n => n > 0),
        entries: fc.array(
          fc.tuple(
            entry,
            fc.option(fc.constantFrom('2026-01-01T00:00:00.000Z', '2027-01-01T00:00:00.000Z'), { nil: undefined }),
          ),
          { maxLength: 5 },
        ),
      }),
      { minLength: 3, maxLength: 3 },
    ),
    assignments: fc.array(assignment, { maxLength: 4 }),
    rules: fc.array(rule, { maxLength: 6 }),
    thresholds: fc.option(
      fc.record({
        likely: stop.map(s => ({ at: 5, stop: s })),
        sure: fc.option(
          stop.map(s => ({ at: 9, stop: s })),
          { nil: undefined },
        ),
      }),
      { nil: undefined },
    ),
    sets: fc.array(fc.array(phrase, { maxLength: 3 }), { minLength: 2, maxLength: 2 }),
  })
  .map(({ lists, assignments, rules, sets, thresholds }) => {
    /** What is mandatory counts for verified senders only, and says no more. */
    const isMandatory = ({ mandatory, owner }: { mandatory: boolean, owner: string }) => mandatory && !personal(owner)
    function withoutCounts(c: Condition): Condition {
      if ('all' in c) return { all: c.all.map(withoutCounts) }
      if ('any' in c) return { any: c.any.map(withoutCounts) }
      if ('none' in c) return { none: c.none.map(withoutCounts) }
      return 'counts' in c ? { ...c, counts: undefined } as Condition : c
    }
    const personal = (o: string) => o.startsWith('person:')
    return bare({
      format: 'sober-gate-policy',
      formatVersion: 3,
      version: 3,
      trust: TRUST,
      thresholds,
      departments: [
        { id: 'office', name: 'Office' },
        { id: 'accounts', name: 'Accounts', parent: 'office' },
      ],
      people: [{ id: 'oskar', name: 'Oskar', addresses: ['oskar@saltmere.example'], departments: ['accounts'] }],
      quarantines: [
        { id: 'general', name: 'General', general: true },
        { id: 'security', name: 'Security' },
      ],
      lists: lists.map((l, i) => ({
        id: `l${i}`,
        name: `L${i}`,
        owner: 'organisation',
        usualSide: 'block',
        enabled: l.enabled,
        entries: l.entries.map(([e, expires], j) => ({ id: `l${i}e${j}`, ...e, expires })),
      })),
      assignments: assignments.map((b, i) => ({
        id: `b${i}`,
        list: b.list,
        owner: b.owner,
        side: b.side,
        direction: b.direction,
        mandatory: isMandatory(b),
        state: b.state,
        ...(b.side === 'block' ? { stop: b.stop } : { protect: b.protect, counts: isMandatory(b) ? undefined : b.counts }),
      })),
      phraseSets: sets.map((phrases, i) => ({ id: `s${i + 1}`, name: `S${i}`, owner: 'organisation', phrases })),
      rules: rules.map((r, i) => ({
        id: `r${i}`,
        name: `R${i}`,
        owner: r.owner,
        mandatory: isMandatory(r),
        overridesLists: r.overridesLists,
        state: r.state,
        direction: r.direction,
        when: isMandatory(r) ? withoutCounts(r.when) : r.when,
        except: isMandatory(r) ? r.except.map(withoutCounts) : r.except,
        claims: [...r.claims, ...r.effects],
        end: r.end,
        expires: r.expires,
      })),
    }) as Policy
  })

const obfuscated = fc.constantFrom(
  (w: string) => w,
  (w: string) => w,
  (w: string) => w.toUpperCase(),
  (w: string) => [...w].join(' '),
  (w: string) => w.replace(/e/g, 'е'),
  (w: string) => w.replace(/(.)(.)/, '$1\u200B$2'),
  (w: string) => w.replace(/e/g, 'é'),
  (w: string) => w.replace(/l/g, 'I'),
)
const text = fc
  .array(fc.tuple(fc.oneof(word, fc.constantFrom('and', 'the', '.', '\r\n', '  ', '> ')), obfuscated), { maxLength: 14 })
  .map(parts => parts.map(([w, d]) => d(w)).join(' '))

/** A message as bytes with its envelope; in it stands what policies look for. */
export const arbitraryMessage: fc.Arbitrary<{ bytes: Uint8Array, envelope: Envelope }> = fc
  .record({
    from: address,
    name: fc.constantFrom('', 'News Desk', 'Release Fee'),
    sender: fc.option(address, { nil: undefined }),
    mailFrom: fc.oneof(address, fc.constant('')),
    auth: fc.constantFrom('pass', 'fail', ''),
    inside: fc.integer({ min: 0, max: 3 }).map(n => n === 0),
    subject: text,
    body: text,
    hidden: text,
    html: fc.boolean(),
    list: fc.boolean(),
    note: fc.option(word, { nil: undefined }),
    date: fc.constantFrom('Tue, 24 Nov 2026 09:00:00 +0000', 'Tue, 24 Nov 2025 09:00:00 +0000', ''),
    exe: fc.boolean(),
    mark: fc.boolean(),
    cc: fc.boolean(),
  })
  .map((m) => {
    const relay = `Authentication-Results: ${RELAY.authservId}; dmarc=${m.auth} header.from=${m.from.split('@')[1]}\r\nReceived: from x `
      + `(x [203.0.113.9]) by ${RELAY.authservId}; Tue, 24 Nov 2026 09:00:00 +0000\r\n`
    const head = [
      `From: ${m.name ? `"${m.name}" ` : ''}<${m.from}>`,
      ...(m.sender ? [`Sender: ${m.sender}`] : []),
      `To: ${m.cc ? 'other@x.test' : 'oskar@saltmere.example'}`,
      ...(m.cc ? ['Cc: oskar@saltmere.example'] : []),
      `Subject: ${m.mark ? '[SPAM] ' : ''}${m.subject.replace(/[\r\n]+/g, ' ')}`,
      ...(m.date ? [`Date: ${m.date}`] : []),
      ...(m.list ? ['List-Id: <list.bulk.example>'] : []),
      ...(m.note ? [`X-Note: ${m.note}`] : []),
      'MIME-Version: 1.0',
    ]
    const part = m.html
      ? `Content-Type: text/html; charset=utf-8\r\n\r\n<p>${m.body}</p><p style="display:none">${m.hidden}</p><a `
      + `href="https://x.test/offers">l</a>`
      : `Content-Type: text/plain; charset=utf-8\r\n\r\n${m.body}`
    const body = m.exe
      ? `Content-Type: multipart/mixed; boundary=bb\r\n\r\n--bb\r\n${part}\r\n--bb\r\nContent-Type: application/octet-stream; `
      + `name="fee.exe"\r\nContent-Disposition: attachment; filename="fee.exe"\r\n\r\nMZ\r\n--bb--\r\n`
      : part
    return {
      bytes: new TextEncoder().encode(`${m.auth ? relay : ''}${head.join('\r\n')}\r\n${body}`),
      envelope: {
        mailFrom: m.mailFrom,
        rcptTo: ['oskar@saltmere.example'],
        client: m.inside ? '10.1.2.3' : m.auth ? '198.51.100.7' : '203.0.113.9',
        helo: null,
        tls: false,
        user: null,
        receivedAt: '2026-11-24T09:00:00.000Z',
      },
    }
  })

export { entry as arbitraryEntry }

/** What is known of a copy besides. */
export const arbitraryContext = fc.record({
  score: fc.option(fc.constantFrom(0, 5, 7.5, 12), { nil: undefined }),
  learned: fc.option(fc.constant({ certainty: 0.9 }), { nil: undefined }),
})
