import { execFile } from 'node:child_process'
import { mkdtempSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { build } from 'esbuild'
import { beforeAll, describe, expect, it } from 'vitest'
import { pdfOf } from '../../demo/pdf'
import { BUNDLE } from '../../scripts/lib/bundle.mjs'
import { OURS, policy, RELAY } from '../support/build'
import { slowPdf, withDocument } from '../support/documents'

const folder = mkdtempSync(join(tmpdir(), 'cli-'))
const file = (name: string, text: string) => {
  writeFileSync(join(folder, name), text)
  return join(folder, name)
}
// Bundled as the installation's is, since it starts a thread of itself.
const program = join(folder, 'sober-gate.mjs')
beforeAll(async () => {
  await build({
    ...BUNDLE,
    entryPoints: { 'sober-gate': 'cli/main.ts' },
    outdir: folder,
    outExtension: { '.js': '.mjs' },
    splitting: true,
  })
})
const run = (...args: string[]) =>
  new Promise<{ code: number, out: string, err: string }>((resolve) => {
    execFile(process.execPath, [program, ...args], (error, out, err) =>
      resolve({ code: error ? Number(error.code) : 0, out, err }),
    )
  })

const stop = file('stop.eml', 'From: a@x.test\nDate: Tue, 24 Nov 2026 09:00:00 +0000\nSubject: release fee\n\nx')
const rules = [
  {
    id: 'r',
    name: 'Fees',
    owner: 'organisation',
    state: 'enabled' as const,
    when: { phrases: ['release fee'] },
    except: [],
    claims: [{ stop: { to: 'spam' as const } }],
  },
]
const good = file('policy.json', JSON.stringify(policy({ rules })))

describe('command line: a script would take a failure for an answer', () => {
  it('parses each file as one line of JSON, and complains of those it cannot read', async () => {
    const { code, out, err } = await run('parse', stop, join(folder, 'missing.eml'))
    expect(
      out
        .trim()
        .split('\n')
        .map(l => JSON.parse(l).subject),
    ).toEqual(['release fee'])
    expect([code, err]).toEqual([2, expect.stringContaining('there is no such file')])
  })
  it('reads documents, and gives up on one that takes for ever', async () => {
    const { code, out } = await run(
      'parse',
      file('quick.eml', withDocument('quick', 'q.pdf', pdfOf(['The new account']))),
      file('slow.eml', withDocument('slow', 's.pdf', slowPdf())),
      join(folder, 'quick.eml'),
    )
    const [quick, slow, again] = out
      .trim()
      .split('\n')
      .map(line => JSON.parse(line))
    expect(again).toEqual(quick)
    expect([
      code,
      quick.attachments[0].text,
      slow.attachments[0].text,
      slow.defects.find((d: { code: string }) => d.code === 'attachment not readable'),
    ]).toEqual([
      0,
      'The new account\n',
      undefined,
      { code: 'attachment not readable', detail: 's.pdf: reading took too long' },
    ])
  })
  it('decides under a policy and says why', async () => {
    const { code, out } = await run('decide', '--policy', good, '--recipient', `oskar@${OURS}`, stop)
    expect([code, JSON.parse(out)]).toEqual([
      0,
      expect.objectContaining({
        lane: 'spam',
        why: 'Moved to Spam because rule “Fees” found “release fee” in the subject.',
      }),
    ])
  })
  it.each([
    [['decide', '--recipient', 'x@y.test', stop], '--policy'],
    [['decide', '--policy', good, '--recipient', 'nobody', stop], 'not a complete address'],
    [['decide', '--policy', file('bad.json', '{'), '--recipient', 'x@y.test', stop], 'is not JSON'],
    [
      [
        'decide',
        '--policy',
        file('wrong.json', JSON.stringify({ ...policy(), rules: [{ ...rules[0], when: { all: [] } }] })),
        '--recipient',
        'x@y.test',
        stop,
      ],
      '/rules/0/when/all',
    ],
    [['decide', '--policy', good, '--recipient', 'x@y.test', '--score', 'high', stop], '“high” is not a number'],
    [['parse'], 'at least one file'],
    [['fly'], 'Unknown command “fly”'],
    [['parse', '--wings', stop], 'wings'],
  ])('%j is answered with a sentence and exit code 2', async (args, says) => {
    const { code, out, err } = await run(...(args as string[]))
    expect([code, out, err]).toEqual([2, '', expect.stringContaining(says as string)])
  })
  it('says what it can do, and of each command what it takes', async () => {
    const all = await run('--help')
    for (const asked of [[], ['help'], ['-h']]) expect(await run(...asked)).toEqual(all)
    expect([all.code, all.err]).toEqual([0, ''])
    for (const command of ['parse', 'decide', 'check', 'import']) {
      expect(all.out).toContain(`  ${command} `)
      const one = await run(command, '--help')
      expect([command, one.code, one.out.startsWith(`sober-gate ${command} `)]).toEqual([command, 0, true])
      expect(await run('help', command)).toEqual(one)
      // Every option that the usage names is told of, and no other.
      const usage = one.out.split('\n', 1)[0]!
      const named = new Set(usage.match(/--[a-z-]+/g) ?? [])
      expect([
        command,
        new Set(
          one.out
            .split('\n')
            .slice(1)
            .flatMap(l => /^ {2}(--[a-z-]+)/.exec(l)?.[1] ?? []),
        ),
      ]).toEqual([command, named])
    }
    expect(await run('evaluate')).toMatchObject({
      code: 2,
      out: '',
      err: expect.stringContaining('Unknown command “evaluate”'),
    })
    expect(await run('constructor')).toMatchObject({
      code: 2,
      err: expect.stringContaining('Unknown command “constructor”'),
    })
  })

  describe('simulate', () => {
    const two = (name: string, from: string, id: string, to = `oskar@${OURS}`) =>
      `From: ${from}\nTo: ${to}\nMessage-ID: <${id}>\nDate: Tue, 24 Nov 2026 09:00:00 +0000\nSubject: ${name}\n\nx\n`
    const before = file('before.json', JSON.stringify(policy()))
    const mbox = file(
      'mail.mbox',
      ['release fee', 'a fee', 'for nobody']
        .map((s, i) => `From a@x.test Tue Nov 24 09:00:00 2026\n${two(s, 'a@x.test', `m${i}@x.test`, i === 2 ? 'x@y.test' : undefined)}\n`)
        .join(''),
    )
    const marked = file('judged.csv', 'Message-ID,judgement\n<m0@x.test>,wanted\n')

    it('tells what the other policy would do to files and mbox files, the worst first', async () => {
      const { code, out } = await run('simulate', '--before', before, '--after', good, '--judgements', marked, mbox, stop)
      expect(code).toBe(0)
      expect(JSON.parse(out)).toMatchObject({
        copies: 1,
        moves: 1,
        wanted: 1,
        lanes: [{ from: 'inbox', to: 'spam', wanted: 1, unwanted: 0, unmarked: 0 }],
        looked: 2,
        forNobody: 2,
        sample: [`${mbox}#1`],
        broad: 'It would stop 1 message marked wanted.',
      })
    })
    it('takes everything for whom it is told to', async () => {
      const { out } = await run('simulate', '--before', before, '--after', good, '--recipient', `oskar@${OURS}`, mbox, stop)
      expect(JSON.parse(out)).toMatchObject({ copies: 2, looked: 4, forNobody: 0 })
    })
    it.each([
      ['no second policy', ['--before', before]],
      ['policies of other people', ['--before', before, '--after', file('other.json', JSON.stringify({ ...policy(), people: [] }))]],
      [
        'judgements that are none',
        ['--before', before, '--after', good, '--judgements', file('bad.csv', 'message-id,judgement\nx,maybe\n')],
      ],
      ['an instant that is none', ['--before', before, '--after', good, '--now', 'soon']],
    ])('complains of %s', async (_, args) => {
      const { code, err } = await run('simulate', ...args, mbox)
      expect([code, err]).toEqual([2, expect.stringMatching(/^sober-gate: .{20}/)])
    })

    it('and mends tells what would put a wrongly stopped message right, with what it costs among the others', async () => {
      const { code, out } = await run('fixes', '--policy', good, '--judgements', marked, mbox)
      expect(code).toBe(0)
      const result = JSON.parse(out)
      expect(result.falsePositives.copies).toEqual([`${mbox}#1`])
      expect(result.missed).toEqual({ copies: [], fixes: [] })
      expect(result.forNobody).toBe(1)
      const [first] = result.falsePositives.fixes
      expect(first).toMatchObject({ fixes: 1, harm: 0,
        why: 'releases 1 message, none of them marked unwanted. The sender is not verified: anyone can send mail that gets through by it' })
      // What it names can be saved as it stands.
      expect(first.changes.every((c: { type: string }) => c.type === 'put' || c.type === 'remove')).toBe(true)
    })
    it('believes a relay where it is told to: without, no sender of a file is verified, and no allow entry counts', async () => {
      const relayed = file('relayed.eml', [
        `Received: from mx ([198.51.100.7]) by ${OURS}; Tue, 24 Nov 2026 09:00:02 +0000`,
        `Authentication-Results: ${RELAY.authservId}; dmarc=pass header.from=partner.example`,
        'Received: from far ([203.0.113.9]) by mx; Tue, 24 Nov 2026 09:00:00 +0000',
        `From: ann@partner.example\nTo: oskar@${OURS}\nMessage-ID: <r@x.test>\nSubject: release fee\n\nx\n`,
      ].join('\n'))
      const said = file('relayed.csv', 'message-id,judgement\nr@x.test,wanted\n')
      const fixes = async (...more: string[]): Promise<{ why: string, sentence: string, inCover: boolean }[]> =>
        JSON.parse((await run('fixes', '--policy', good, '--judgements', said, ...more, relayed)).out).falsePositives.fixes
      expect((await fixes())[0]!.why).toContain('The sender is not verified')
      const believed = await fixes('--trust-received')
      expect(believed.map(f => f.sentence)).toContain('Allow ann@partner.example, if verified, for the whole organisation')
      expect(believed.filter(f => f.inCover)).toHaveLength(1)

      const lists = [{
        id: 'l', name: 'Partners', owner: 'organisation', usualSide: 'allow' as const, enabled: true,
        entries: [{ id: 'e', kind: 'domain' as const, value: 'partner.example' }],
      }]
      const assignments = [{ id: 'b', list: 'l', owner: 'organisation', side: 'allow' as const, state: 'enabled' as const }]
      const after = file('allowing.json', JSON.stringify(policy({ rules, lists, assignments })))
      const moves = async (...more: string[]) => JSON.parse((await run('simulate', '--before', good, '--after', after, ...more, relayed)).out).moves
      expect([await moves(), await moves('--trust-received')]).toEqual([0, 1])
    })
    it('and mends complains where nothing says what is wanted', async () => {
      expect(await run('fixes', '--policy', good, mbox)).toMatchObject({ code: 2, err: expect.stringContaining('--judgements') })
      expect(await run('fixes', '--judgements', marked, mbox)).toMatchObject({ code: 2, err: expect.stringContaining('--policy') })
    })
  })
})
