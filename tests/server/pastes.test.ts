// What is pasted into lists and taken out of them: line by line, in files, and who is on which list.
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest'
import { list } from '../support/clauses'
import { type Caller, eventsOf, JSON_TYPE, request, signIn } from '../support/http'
import { install, type Installation } from '../support/installation'
import { ownerOf } from '../support/office'

let gate: Installation
let admin: Caller
let worker: Caller

beforeAll(async () => {
  gate = await install(inject('clusterFolder'), 'pastes')
  admin = await signIn(gate, 'admin')
  worker = await signIn(gate, 'worker')
})
afterAll(() => gate.stop())

type Row = Record<string, any> // eslint-disable-line @typescript-eslint/no-explicit-any
let made = 0
async function newList(caller = admin, over: object = {}) {
  const assignment = { side: 'block', state: 'enabled', stop: { to: 'spam' } }
  const { body } = await caller('POST', '/api/lists', list(`Pasted ${++made}`, { enabled: true, assignment, ...over }))
  return body.id as string
}
const values = (id: string) => gate.ask.entriesOf(id)
async function file(id: string, as: string, { cookie } = admin) {
  const answer = await request(gate.url, `/api/lists/${id}/file?as=${as}`, { headers: { cookie } })
  return { status: answer.status, type: answer.headers.get('content-type'), text: answer.text }
}
async function sendCsv(id: string, body: string, { cookie } = admin) {
  const headers = { cookie, 'content-type': 'text/csv' }
  const answer = await request(gate.url, `/api/lists/${id}/file`, { method: 'POST', headers, body })
  return { status: answer.status, body: JSON.parse(answer.text) as Row }
}

describe('a paste', () => {
  it('is looked through before, adds nothing then, and says the same when it is added', async () => {
    const id = await newList()
    const text = 'a@x.test\nb@y.test\n@y.test\na@x.test\nnot an address\n'
    const { body: ahead } = await admin('POST', `/api/lists/${id}/entries`, { text, dry: true })
    expect(ahead.counts).toEqual({ 'new': 2, 'there': 0, 'twice': 1, 'covered': 1, 'contrary': 0, 'doubtful': 0, 'in part': 0, 'not understood': 1 })
    expect(await values(id)).toEqual([])
    const { body } = await admin('POST', `/api/lists/${id}/entries`, { text })
    expect(body.report).toEqual(ahead)
    expect(body.added).toHaveLength(3)
    const again = (await admin('POST', `/api/lists/${id}/entries`, { text, dry: true })).body
    expect(again.counts).toMatchObject({ new: 0, there: 3, twice: 1 })
  })

  it('of 40,000 lines says how far it is, and all of them are on the list; more than 100,000 are refused', async () => {
    const id = await newList()
    const text = Array.from({ length: 40_000 }, (_, i) => `n${i}@many.test`).join('\n')
    const answer = await request(gate.url, `/api/lists/${id}/entries?follow=yes`, {
      method: 'POST',
      headers: { cookie: admin.cookie, ...JSON_TYPE },
      body: JSON.stringify({ text }),
    })
    const result = eventsOf<Row>(answer.text)
    expect([...new Set(result.flatMap(t => t.stage ?? []))]).toEqual(['reading', 'looking', 'writing'])
    expect(result.filter(t => t.stage === 'writing').length).toBeGreaterThan(3)
    expect(result.at(-1)!.report.counts.new).toBe(40_000)
    expect((await admin('GET', `/api/lists/${id}`)).body.size).toBe(40_000)
    expect((await admin('POST', `/api/lists/${id}/entries`, { text: 'a\n'.repeat(100_001) })).status).toBe(422)
  })

  it('into a list that is not theirs is refused, and its report too where they do not see it', async () => {
    const id = await newList()
    expect((await worker('POST', `/api/lists/${id}/entries`, { text: 'a@x.test' })).status).toBe(403)
    const own = await newList(admin, { owner: ownerOf('admin') })
    expect((await worker('POST', `/api/lists/${own}/entries`, { text: 'a@x.test', dry: true })).status).toBe(404)
    expect((await file(own, 'csv', worker)).status).toBe(404)
    expect((await sendCsv(id, 'value\na@x.test\n', worker)).status).toBe(403)
  })
})

describe('a file of a list', () => {
  it('out as CSV and in again is the same list: kinds, notes and dates', async () => {
    const id = await newList()
    const { body } = await sendCsv(id, [
      'kind,value,note,expires',
      'address,a@x.test,"a note, with ""quotes""",2027-01-31',
      'domain,x.test,,',
      'domain and below,y.test,"two\r\nlines",',
      'pattern,*@z.test,=cmd|calc,',
      'words,news desk,,',
      'everyone,,,',
    ].join('\r\n'))
    expect(body.report.counts).toMatchObject({ 'not understood': 0, 'new': expect.any(Number) })
    const csv = await file(id, 'csv')
    expect(csv.type).toContain('text/csv')
    // RFC 4180: lines end in CRLF, quotes are doubled; what a spreadsheet would run stands behind an apostrophe.
    expect(csv.text).toContain('"a note, with ""quotes"""')
    expect(csv.text).toContain('\'=cmd|calc')
    const other = await newList()
    await sendCsv(other, csv.text)
    expect(await values(other)).toEqual(await values(id))
    const [first] = await values(other)
    const expires = new Date('2027-01-31T00:00:00.000Z')
    expect(first).toEqual({ kind: 'address', value: 'a@x.test', note: 'a note, with "quotes"', expires })
  })

  it('as plain lines is read as the same entries; what a line cannot say is a remark', async () => {
    const id = await newList()
    await admin('POST', `/api/lists/${id}/entries`, { text: 'a@x.test\n@x.test\n*.y.test\n*@z.test' })
    await admin('POST', `/api/lists/${id}/entries`, { text: 'news desk', as: 'words' })
    await admin('POST', `/api/lists/${id}/entries`, { text: 'news.regatta.test', as: 'mailingList' })
    await sendCsv(id, 'kind,value\nwords,"desk, and more"')
    const { text } = await file(id, 'lines')
    expect(text).toContain('\r\nwords: news desk\r\n')
    expect(text).toContain('\r\n# words: desk, and more\r\n')
    const other = await newList()
    await admin('POST', `/api/lists/${other}/entries`, { text })
    expect(await values(other)).toEqual((await values(id)).filter(e => e.value !== 'desk, and more'))
  })

  it('that is wrong says where, and adds what is right', async () => {
    const id = await newList()
    const { body } = await sendCsv(id, 'kind,value,expires\nnonsense,a@csv.test,\n,b@csv.test,never\n,,\n,c@csv.test,\n,c@csv.test,')
    expect(body.report.lines.map((l: Row) => [l.line, l.outcome])).toEqual(
      // A row of nothing but commas is what spreadsheets leave of a row that was deleted.
      [[2, 'not understood'], [3, 'not understood'], [6, 'twice']],
    )
    expect((await values(id)).map(e => e.value)).toEqual(['c@csv.test'])
    expect((await sendCsv(id, 'a,b\n1,2')).body.detail).toContain('value')
    expect((await sendCsv(id, 'value\n"never closed')).body.detail).toContain('not a valid CSV file')
    expect((await sendCsv(id, '')).status).toBe(422)
  })
})

describe('who is on which list', () => {
  it('is found over all lists that one sees: by letters, by note, and by what catches the address', async () => {
    const [one, two] = [await newList(), await newList()]
    await admin('POST', `/api/lists/${one}/entries`, { text: 'anna@deep.found.test', note: 'asked by the pilot' })
    await admin('POST', `/api/lists/${two}/entries`, { text: '*.found.test' })
    const secret = await newList(admin, { owner: ownerOf('admin') })
    await admin('POST', `/api/lists/${secret}/entries`, { text: 'anna@deep.found.test' })
    const found = async (caller: Caller, words: string) =>
      (await caller('GET', `/api/entries?words=${encodeURIComponent(words)}`)).body.items.map(
        (e: Row) => [e.list.id, e.value, e.wider],
      ) as unknown[]
    expect(await found(worker, 'anna@deep.found.test')).toEqual([[one, 'anna@deep.found.test', false], [two, 'found.test', true]])
    expect(await found(worker, 'the pilot')).toEqual([[one, 'anna@deep.found.test', false]])
    expect(await found(admin, 'anna@deep.found.test')).toHaveLength(3)
    expect(await found(worker, '100%')).toEqual([])
    const { body } = await worker('GET', '/api/entries?words=anna@deep.found.test')
    const text = expect.any(String)
    expect(body.items[0]).toMatchObject({ by: text, since: text, list: { owner: text, enabled: true } })
    expect((await worker('GET', '/api/entries?words=a')).status).toBe(400)
  })
})
