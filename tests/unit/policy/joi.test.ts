import { readdirSync, readFileSync } from 'node:fs'
import { describe, expect, it } from 'vitest'
import fc from 'fast-check'
import { instant, isMailDomain, isOddText, Joi, readPolicy, valueKey } from '#core'
import { policy } from '../../support/build'

const code = (schema: { validate(v: unknown): { error?: { details: { type: string }[] } } }, value: unknown) =>
  schema.validate(value).error?.details[0]?.type ?? null

describe('what comes in as text: a character that cannot be stored would be a fault of ours', () => {
  it.each(['\0', 'a\0', '\uD800', '\uDC00', 'x\uD83Dy', '\uDCA9\uD83D'])('%o is refused, wherever it stands', (odd) => {
    expect(isOddText(odd)).toBe(true)
    const schema = Joi.object({
      a: Joi.array().items(Joi.object({ b: Joi.string().trim().allow('').max(100).valid('x', odd).lowercase() })),
    })
    expect(code(Joi.string(), odd)).toBe('string.odd')
    expect(code(Joi.string().allow('').max(10).trim(), `  ${odd} `)).toBe('string.odd')
    expect(code(Joi.alternatives().try(Joi.number(), Joi.string()), odd)).not.toBe(null)
    expect(code(schema, { a: [{ b: odd.repeat(3) }] })).not.toBe(null)
  })
  it('every other text is taken as it stands', () => {
    fc.assert(
      fc.property(
        fc.string({ unit: 'binary' }).filter(s => s !== '' && !s.includes('\0')),
        text => code(Joi.string(), text) === null,
      ),
      { seed: 3 },
    )
  })
  it.each([
    '+275760-09-13T00:00:00.000Z',
    '-000001-01-01T00:00:00Z',
    '1969-12-31T23:59:59Z',
    '+010000-01-01',
    '2027-02-30T25:61:00Z',
    '2027-13-01',
    'soon',
  ])('%s is no date', (text) => {
    expect(code(instant, text)).not.toBe(null)
    expect(code(Joi.date().iso(), text)).not.toBe(null)
  })
  it.each(['1970-01-01', '2027-03-01', '9999-12-31T23:59:59.999Z', '2027-03-01T10:00:00+02:00'])('%s is one', (text) => {
    expect([code(instant, text), code(Joi.date().iso(), text)]).toEqual([null, null])
  })
  it('a policy from a file is held to the same', () => {
    const { version: _, ...plain } = policy()
    const odd = (over: object) => readPolicy({ ...plain, ...over })
    expect(odd({ quarantines: [{ id: 'q', name: 'a\0b' }] })).toHaveProperty('problems')
    expect(odd({ phraseSets: [{ id: 's', name: 'S', owner: 'organisation', phrases: ['x\uD800'] }] })).toHaveProperty(
      'problems',
    )
    expect(
      odd({
        rules: [
          {
            id: 'r',
            name: 'R',
            owner: 'organisation',
            state: 'disabled',
            when: { phrases: ['x'] },
            except: [],
            claims: [{ stop: { to: 'spam' } }],
            expires: '+275760-01-01',
          },
        ],
      }),
    ).toHaveProperty('problems')
  })
  it('is the only one that is used', () => {
    for (const folder of ['core', 'server', 'cli'])
      for (const file of readdirSync(folder, { recursive: true, encoding: 'utf8' }).filter(
        f => f.endsWith('.ts') && f !== 'policy/joi.ts',
      ))
        expect([file, /import (?!type)[^\n]* from 'joi'/.exec(readFileSync(`${folder}/${file}`, 'utf8'))?.[0]]).toEqual(
          [file, undefined],
        )
  })
})

describe('values compared by value', () => {
  it('whatever the order of keys, and nothing else is equal', () => {
    const shuffle = (v: unknown): unknown =>
      Array.isArray(v)
        ? v.map(shuffle)
        : v !== null && typeof v === 'object'
          ? Object.fromEntries(
              Object.entries(v)
                .reverse()
                .map(([k, x]) => [k, shuffle(x)]),
            )
          : v
    fc.assert(
      fc.property(fc.jsonValue(), value => valueKey(value) === valueKey(shuffle(value))),
      { seed: 5 },
    )
    expect(valueKey({ a: 1, b: [1, 2] })).not.toBe(valueKey({ a: 1, b: [2, 1] }))
    expect(valueKey({ a: '1' })).not.toBe(valueKey({ a: 1 }))
    expect(valueKey({ a: null })).not.toBe(valueKey({}))
  })
})

describe('a domain that mail can be for', () => {
  // Public Suffix List (publicsuffix.org) by tldts; RFC 1123 2.1 for the letters; RFC 2606 for the examples.
  it.each(['saltmere-harbour.example', 'a.b.example', 'x.co.uk', 'xn--mller-kva.example', 'mail.test'])(
    '%s is one',
    d => expect(isMailDomain(d)).toBe(true),
  )
  it.each([
    'localhost',
    'example',
    'com',
    'co.uk',
    '127.0.0.1',
    '[127.0.0.1]',
    '[ipv6:::1]',
    '-x.example',
    'x_y.example',
    'x..example',
    'x.example.',
    '',
    '*.example',
    'x y.example',
  ])('%s is none', d => expect(isMailDomain(d)).toBe(false))
})
