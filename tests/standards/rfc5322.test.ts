// RFC 5322, appendix A: the standard's own example messages, their text from memory. What is expected is what the RFC says of them.
import { describe, expect, it } from 'vitest'
import { parseContent, parseReceived, type Address } from '#core'
import { letter } from '../support/build'

const parse = (lines: string[]) =>
  parseContent(new TextEncoder().encode([...lines, '', 'This is a message just to say hello.', ''].join('\r\n')))
const addresses = (list: Address[]) => list.map(a => `${a.local}@${a.domain}`)
const named = (list: Address[]) => list.map(a => [a.name, `${a.local}@${a.domain}`])

describe('RFC 5322 appendix A: a rule on sender, recipient or date would miss mail written in a permitted way', () => {
  it('A.1.1, a message from one person to another', async () => {
    const m = await parse([
      'From: John Doe <jdoe@machine.example>',
      'To: Mary Smith <mary@example.net>',
      'Subject: Saying Hello',
      'Date: Fri, 21 Nov 1997 09:55:06 -0600',
      'Message-ID: <1234@local.machine.example>',
    ])
    expect(named(m.from)).toEqual([['John Doe', 'jdoe@machine.example']])
    expect(named(m.to)).toEqual([['Mary Smith', 'mary@example.net']])
    expect([m.subject, m.date, m.messageId]).toEqual([
      'Saying Hello',
      '1997-11-21T15:55:06.000Z',
      '1234@local.machine.example',
    ])
    expect(m.segments.find(s => s.place === 'own')?.text.trim()).toBe('This is a message just to say hello.')
    expect(m.defects).toEqual([])
  })

  it('A.1.1, with a Sender', async () => {
    const m = await parse([
      'From: John Doe <jdoe@machine.example>',
      'Sender: Michael Jones <mjones@machine.example>',
      'To: Mary Smith <mary@example.net>',
      'Date: Fri, 21 Nov 1997 09:55:06 -0600',
      'Message-ID: <1234@local.machine.example>',
    ])
    expect(m.sender && `${m.sender.local}@${m.sender.domain}`).toBe('mjones@machine.example')
  })

  it('A.1.2, different types of mailboxes', async () => {
    const m = await parse([
      'From: "Joe Q. Public" <john.q.public@example.com>',
      'To: Mary Smith <mary@x.test>, jdoe@example.org, Who? <one@y.test>',
      'Cc: <boss@nil.test>, "Giant; \\"Big\\" Box" <sysservices@example.net>',
      'Date: Tue, 1 Jul 2003 10:52:37 +0200',
      'Message-ID: <5678.21-Nov-1997@example.com>',
    ])
    expect(named(m.from)).toEqual([['Joe Q. Public', 'john.q.public@example.com']])
    expect(named(m.to)).toEqual([
      ['Mary Smith', 'mary@x.test'],
      ['', 'jdoe@example.org'],
      ['Who?', 'one@y.test'],
    ])
    expect(named(m.cc)).toEqual([
      ['', 'boss@nil.test'],
      ['Giant; "Big" Box', 'sysservices@example.net'],
    ])
    expect(m.date).toBe('2003-07-01T08:52:37.000Z')
  })

  it('A.1.3, group addresses', async () => {
    const m = await parse([
      'From: Pete <pete@silly.example>',
      'To: A Group:Ed Jones <c@a.test>,joe@where.test,John <jdoe@one.test>;',
      'Cc: Undisclosed recipients:;',
      'Date: Thu, 13 Feb 1969 23:32:54 -0330',
      'Message-ID: <testabcd.1234@silly.example>',
    ])
    expect(addresses(m.to)).toEqual(['c@a.test', 'joe@where.test', 'jdoe@one.test'])
    expect(m.cc).toEqual([])
    expect(m.date).toBe('1969-02-14T03:02:54.000Z')
  })

  it('3.2.3, every character of atext at the beginning of a local part: else it is somebody else’s address', async () => {
    for (const c of '!#$%&\'*+-/=?^_`{|}~') {
      for (const from of [`Joe <${c}joe@quayline.example>`, `${c}joe@quayline.example`, `<${c}joe@quayline.example>`]) {
        const { content, attempt } = await letter({ from, auth: 'fail' })
        expect(addresses(content.from), from).toEqual([`${c}joe@quayline.example`])
        expect(attempt.authentication.verdict, from).toBe('fail')
      }
    }
    // What stands around an address on both sides is no part of it.
    for (const from of ['\'joe@quayline.example\'', '*joe@quayline.example*', '{joe@quayline.example}', '`joe@quayline.example\''])
      expect(addresses((await letter({ from })).content.from), from).toEqual(['joe@quayline.example'])
  })

  it('A.4, trace fields', () => {
    expect(
      parseReceived(
        'from x.y.test by example.net via TCP with ESMTP id ABC12345 for <mary@example.net>;  21 Nov 1997 10:05:43 -0600',
      ).date,
    ).toBe('1997-11-21T16:05:43.000Z')
    expect(parseReceived('from node.example by x.y.test; 21 Nov 1997 10:01:22 -0600').date).toBe(
      '1997-11-21T16:01:22.000Z',
    )
  })

  it('A.5, white space, comments and other oddities', async () => {
    const m = await parse([
      'From: Pete(A nice \\) chap) <pete(his account)@silly.test(his host)>',
      'To:A Group(Some people)',
      '     :Chris Jones <c@(Chris\'s host.)public.example>,',
      '         joe@example.org,',
      '  John <jdoe@one.test> (my dear friend); (the end of the group)',
      'Cc:(Empty list)(start)Hidden recipients  :(nobody(that I know))  ;',
      'Date: Thu,',
      '      13',
      '        Feb',
      '          1969',
      '      23:32',
      '               -0330 (Newfoundland Time)',
      'Message-ID:              <testabcd.1234@silly.test>',
    ])
    expect(addresses(m.from)).toEqual(['pete@silly.test'])
    expect(addresses(m.to)).toEqual(['c@public.example', 'joe@example.org', 'jdoe@one.test'])
    expect(m.cc).toEqual([])
    expect([m.date, m.messageId]).toEqual(['1969-02-14T03:02:00.000Z', 'testabcd.1234@silly.test'])
  })

  it('A.6.1, obsolete addressing', async () => {
    const m = await parse([
      'From: Joe Q. Public <john.q.public@example.com>',
      'To: Mary Smith <@node.test:mary@example.net>, , jdoe@test  . example',
      'Date: Tue, 1 Jul 2003 10:52:37 +0200',
      'Message-ID: <5678.21-Nov-1997@example.com>',
    ])
    expect(addresses(m.from)).toEqual(['john.q.public@example.com'])
    expect(addresses(m.to)).toEqual(['mary@example.net', 'jdoe@test.example'])
  })

  it('A.6.2, obsolete dates', async () => {
    const m = await parse([
      'From: John Doe <jdoe@machine.example>',
      'To: Mary Smith <mary@example.net>',
      'Subject: Saying Hello',
      'Date: 21 Nov 97 09:55:06 GMT',
      'Message-ID: <1234@local.machine.example>',
    ])
    expect(m.date).toBe('1997-11-21T09:55:06.000Z')
  })

  it('A.6.3, obsolete white space and comments', async () => {
    const m = await parse([
      'From  : John Doe <jdoe@machine(comment).  example>',
      'To    : Mary Smith',
      ' ',
      '          <mary@example.net>',
      'Subject     : Saying Hello',
      'Date  : Fri, 21 Nov 1997 09(comment):   55  :  06 -0600',
      'Message-ID  : <1234   @   local(blah)  .machine .example>',
    ])
    expect(addresses(m.from)).toEqual(['jdoe@machine.example'])
    expect(addresses(m.to)).toEqual(['mary@example.net'])
    expect([m.subject, m.date, m.messageId]).toEqual([
      'Saying Hello',
      '1997-11-21T15:55:06.000Z',
      '1234@local.machine.example',
    ])
  })
})
