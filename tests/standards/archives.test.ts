// Python's zipfile and tarfile (Debian's python3) write archives; the names that we read must be the ones that they wrote.
import { execFileSync } from 'node:child_process'
import { describe, expect, it } from 'vitest'
import { archiveFacts } from '../../core/message/archives'

const NAMES = ['a.txt', 'folder/b with spaces.csv', 'folder/Größe.pdf', 'deep/er/港.exe', 'x'.repeat(90)]

const WRITE = `
import io, json, sys, tarfile, zipfile
names = json.load(sys.stdin)
out = io.BytesIO()
if sys.argv[1] == 'tar':
    with tarfile.open(fileobj=out, mode='w', format=tarfile.USTAR_FORMAT) as t:
        for i, n in enumerate(names):
            info = tarfile.TarInfo(n)
            info.size = i * 700
            t.addfile(info, io.BytesIO(b'x' * info.size))
else:
    out.write(b'something before the archive' if sys.argv[1] == 'shifted' else b'')
    with zipfile.ZipFile(out, 'a') as z:
        for n in names:
            z.writestr(n, 'content of ' + n)
        z.comment = b'a comment' if sys.argv[1] == 'comment' else b''
sys.stdout.buffer.write(out.getvalue())
`
const written = (how: string) =>
  new Uint8Array(execFileSync('python3', ['-c', WRITE, how], { input: JSON.stringify(NAMES), maxBuffer: 1e8 }))

describe('archives: a program would pass a rule on programs because it lies in one', () => {
  it.each(['zip', 'comment', 'shifted'])('%s', (how) => {
    expect(archiveFacts(written(how), 'application/zip')).toEqual({ names: NAMES, locked: false, unread: false })
  })
  it('tar', () => {
    expect(archiveFacts(written('tar'), 'application/x-tar')).toEqual({ names: NAMES, locked: false, unread: false })
  })
  it('what is no archive has nothing inside', () => {
    expect(archiveFacts(new TextEncoder().encode('words'), null)).toBeNull()
    expect(archiveFacts(new Uint8Array(0), null)).toBeNull()
  })
  it('what cannot be opened says so, however it is cut', () => {
    const whole = written('zip')
    for (let length = 4; length < whole.length; length += 17) {
      expect([length, archiveFacts(whole.subarray(0, length), 'application/zip')?.unread]).toEqual([length, true])
    }
    for (const type of ['application/vnd.rar', 'application/x-7z-compressed', 'application/gzip']) {
      expect(archiveFacts(new Uint8Array(40), type)).toMatchObject({ names: [], unread: true })
    }
  })
  it('no bytes make it fail', () => {
    const whole = written('zip')
    for (let at = 0; at < whole.length; at++) {
      const bytes = whole.slice()
      bytes[at] = bytes[at]! ^ 0xff
      expect(() => archiveFacts(bytes, 'application/zip')).not.toThrow()
    }
  })
})
