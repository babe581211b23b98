import { spawn } from 'node:child_process'
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { HOSTILE } from '../tests/support/hostile-shapes'
import { readPolicy } from '#core'
import type { Figures } from './measure'
import { policyOf } from './policies'

const LENGTH = 25 * 1000 * 1000
const MEGA = 1024 * 1024
const HEAD = 'From: a@x.test\r\nDate: Tue, 24 Nov 2026 09:00:00 +0000\r\nMessage-ID: <1@x.test>\r\n'
const mixed = (head: string, body: string) =>
  `${HEAD}Content-Type: multipart/mixed; boundary=b\r\n\r\n--b\r\n\r\nx\r\n--b\r\n${head}\r\n\r\n${body}\r\n--b--\r\n`

/** What honest people send. */
const HONEST: Record<string, (length: number) => string> = {
  'a picture': n =>
    mixed('Content-Type: image/png; name=a.png\r\nContent-Transfer-Encoding: base64', `${'A'.repeat(76)}\r\n`.repeat(Math.floor(n / 78))),
  'a table': n =>
    mixed('Content-Type: text/csv; name=a.csv\r\nContent-Disposition: attachment', '1234,abcdef,7890,berth\r\n'.repeat(Math.floor(n / 24))),
  'a long text': n =>
    `${HEAD}Content-Type: text/plain; charset=utf-8\r\n\r\n${('The tide table for the outer channel is corrected; möring fee '
      + '12.\r\n').repeat(Math.floor(n / 68))}`,
}

/** The command line deciding one message of 25 MB of each shape: seconds, and megabytes at the most above a message of no size. */
export async function large(figures: Figures): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), 'bench-'))
  const policy = join(folder, 'policy.json')
  const read = readPolicy(policyOf({ entries: 100, rules: 20, phrases: 200 }))
  if ('problems' in read) throw new Error(JSON.stringify(read.problems))
  writeFileSync(policy, JSON.stringify(read.policy))
  const message = join(folder, 'message.eml')
  const decide = async (text: string) => {
    writeFileSync(message, text, 'latin1')
    return run([
      join('.output', 'cli', 'sober-gate.mjs'),
      'decide',
      '--policy',
      policy,
      '--recipient',
      'oskar@saltmere-harbour.example',
      message,
    ])
  }
  const idle = await decide(`${HEAD}\r\nx`)
  for (const [kind, shapes] of [
    ['honest', HONEST],
    ['hostile', HOSTILE],
  ] as const) {
    const slowest = { shape: '', seconds: 0 }
    const widest = { shape: '', megabytes: 0 }
    let within = 0
    for (const [shape, make] of Object.entries(shapes)) {
      const took = await decide(make(LENGTH))
      const [seconds, megabytes] = [took.seconds - idle.seconds, took.megabytes - idle.megabytes]
      process.stderr.write(`${shape}: ${seconds.toFixed(1)} s, ${megabytes.toFixed(0)} MB\n`)
      if (seconds > slowest.seconds) Object.assign(slowest, { shape, seconds })
      if (megabytes > widest.megabytes) Object.assign(widest, { shape, megabytes })
      if (seconds < 5 && megabytes < 64 + (LENGTH / MEGA) * 10) within++
    }
    const count = Object.keys(shapes).length
    figures.add(`${kind} messages of 25 MB within both goals, of ${count} shapes`, within, '', `all ${count}`, within === count)
    figures.add(`the slowest ${kind} one: ${slowest.shape}`, slowest.seconds, 's', 'under 5', slowest.seconds < 5)
    figures.add(
      `the widest ${kind} one: ${widest.shape}`,
      widest.megabytes,
      'MB above idle',
      'under 64 and ten times its size (302)',
      widest.megabytes < 64 + (LENGTH / MEGA) * 10,
    )
  }
}

function run(args: string[]): Promise<{ seconds: number, megabytes: number }> {
  const start = performance.now()
  const child = spawn(process.execPath, args, { stdio: ['ignore', 'ignore', 'inherit'] })
  let kilobytes = 0
  const watch = setInterval(() => {
    try {
      // proc(5): the most that was resident.
      kilobytes = Math.max(kilobytes, Number(/VmHWM:\s+(\d+)/.exec(readFileSync(`/proc/${child.pid}/status`, 'utf8'))?.[1] ?? 0))
    }
    catch {
      // It has just ended.
    }
  }, 10)
  return new Promise((resolve, reject) =>
    child.on('error', reject).on('exit', (code) => {
      clearInterval(watch)
      if (code === 0) resolve({ seconds: (performance.now() - start) / 1000, megabytes: kilobytes / 1024 })
      else reject(new Error(`${args.join(' ')} ended with ${code}`))
    }),
  )
}
