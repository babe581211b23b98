import { describe, expect, it } from 'vitest'
import { readZone, recordsIn, ZoneError, zoneResolver } from '#core/verification'

describe('zone files (RFC 1035 5.1): a key would be read wrong, and every signature fail', () => {
  // RFC 1035 5.3, its names as they are there.
  const EXAMPLE = `@   IN  SOA     VENERA      Action\\.domains (
                                 20     ; SERIAL
                                 7200   ; REFRESH
                                 600    ; RETRY
                                 3600000; EXPIRE
                                 60)    ; MINIMUM

        NS      A.ISI.EDU.
        NS      VENERA
        NS      VAXA
        MX      10      VENERA
        MX      20      VAXA

A       A       26.3.0.103

VENERA  A       10.1.0.52
        A       128.9.0.32

VAXA    A       10.2.0.27
        A       128.9.0.33
`
  it('the example of RFC 1035 5.3', async () => {
    const resolve = zoneResolver(readZone(`$ORIGIN ISI.EDU.\n${EXAMPLE}`))
    expect(await resolve('isi.edu', 'MX')).toEqual([
      { priority: 10, exchange: 'venera.isi.edu' },
      { priority: 20, exchange: 'vaxa.isi.edu' },
    ])
    expect(await resolve('VENERA.ISI.EDU.', 'A')).toEqual(['10.1.0.52', '128.9.0.32'])
  })
  it('strings, brackets, comments within quotation marks, escapes and octets', async () => {
    const text = `k TXT ( "v=DKIM1; p=a" ; a comment with a ) in it\n  "b\\"c" )\nm TXT plain\\ word "\\195\\182"\n`
    const resolve = zoneResolver(readZone(`$ORIGIN x.example.\n$TTL 1h\n${text}`))
    expect(await resolve('k.x.example', 'TXT')).toEqual([['v=DKIM1; p=a', 'b"c']])
    expect(await resolve('m.x.example', 'TXT')).toEqual([['plain word', 'Ã¶']])
  })
  it('aliases, wildcards and names that only have names below', async () => {
    const zone = readZone('$ORIGIN x.example.\nalias CNAME real\nreal A 192.0.2.1\n*.w A 192.0.2.2\na.b A 192.0.2.3\nloop CNAME loop\n')
    const resolve = zoneResolver(zone)
    expect(await resolve('alias.x.example', 'A')).toEqual(['192.0.2.1'])
    expect(await resolve('any.w.x.example', 'A')).toEqual(['192.0.2.2'])
    await expect(resolve('b.x.example', 'A')).rejects.toMatchObject({ code: 'ENODATA' })
    await expect(resolve('none.x.example', 'A')).rejects.toMatchObject({ code: 'ENOTFOUND' })
    await expect(resolve('loop.x.example', 'A')).rejects.toMatchObject({ code: 'ETIMEOUT' })
    expect(recordsIn(zone, 'real.x.example', 'A')[0]!.ttl).toBe(300)
  })
  it.each([
    ['x A not-an-address', 'Line 1', 'A record'],
    ['\nx MX ten mail', 'Line 2', 'MX record'],
    [' A 192.0.2.1', 'Line 1', 'no name'],
    ['x TXT "open', 'Line 1', 'quotation mark'],
    ['x TXT ( "a"\n"b"', 'Line 1', 'bracket'],
    ['$INCLUDE /etc/passwd', 'Line 1', 'not supported'],
    ['x', 'Line 1', 'type'],
    ['x TXT "\\999"', 'Line 1', 'octet'],
  ])('%j is complained of, with its line', (text, line, what) => {
    expect(() => readZone(text)).toThrow(ZoneError)
    expect(() => readZone(text)).toThrow(new RegExp(`${line}.*${what}`))
  })
})
