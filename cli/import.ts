import { readdir, readFile, stat } from 'node:fs/promises'
import { join, resolve } from 'node:path'
import { parseArgs } from 'node:util'
import { looksLikeMbox, readMbox } from '#core/formats'
import { complain, Complaint } from './complaint'
import { eachFile, printLine } from './files'

interface Running {
  url: string
  token: string
}

/** How the files are taken in. */
interface Taking {
  'recipient'?: string
  'trust-received'?: boolean
}

/** sober-gate import: see help.ts. */
export async function importCommand(args: string[]): Promise<void> {
  const { values, positionals } = parseArgs({
    args,
    allowPositionals: true,
    options: { 'recipient': { type: 'string' }, 'trust-received': { type: 'boolean' }, 'url': { type: 'string' } },
  })
  if (!positionals.length) throw new Complaint('Name at least one file or folder.')
  const running = await findRunning(values.url)
  await eachFile(await filesIn(positionals), async (bytes, file) => {
    if (!looksLikeMbox(bytes)) return importOne(running, bytes, file, values)
    let number = 0
    for (const { message } of readMbox(bytes)) {
      const name = `${file}#${++number}`
      // One message that cannot be taken does not keep the others of the same file out.
      await importOne(running, message, name, values).catch((error: unknown) => complain(name, error))
    }
  })
}

async function importOne(
  running: Running,
  bytes: Uint8Array,
  file: string,
  { recipient, 'trust-received': trustReceived }: Taking,
): Promise<void> {
  const url = new URL('/api/imports', running.url)
  if (recipient !== undefined) url.searchParams.set('recipient', recipient)
  if (trustReceived) url.searchParams.set('trustReceived', 'true')
  const response = await fetch(url, {
    method: 'POST',
    body: Buffer.from(bytes),
    headers: { 'content-type': 'message/rfc822', 'authorization': `Bearer ${running.token}` },
  }).catch((error: unknown) => {
    throw new Error(
      `Sober Gate does not answer at ${running.url} (${error instanceof Error ? error.message : String(error)}). Check that it is running.`,
    )
  })
  const answer = (await response.json()) as { detail?: string }
  if (!response.ok) throw new Error(answer.detail ?? `the installation answered ${response.status}`)
  printLine({ file, ...answer })
}

// `npm start` writes down where it runs; somebody else's installation needs a token of its own.
async function findRunning(url: string | undefined): Promise<Running> {
  const file = resolve(process.env.SOBER_GATE_DATA_DIR ?? '.data', 'running.json')
  const there = await readFile(file, 'utf8').then(
    text => JSON.parse(text) as Running,
    () => null,
  )
  const token = process.env.SOBER_GATE_TOKEN ?? there?.token
  const at = url ?? process.env.SOBER_GATE_URL ?? there?.url
  if (!at || !token)
    throw new Complaint(
      `No running installation found: ${file} does not exist. Start one with npm start, or name another with --url and SOBER_GATE_TOKEN.`,
    )
  return { url: at, token }
}

async function filesIn(paths: readonly string[]): Promise<string[]> {
  const out: string[] = []
  for (const path of paths) {
    const info = path === '-' ? null : await stat(path).catch(() => null)
    if (!info?.isDirectory()) {
      out.push(path)
      continue
    }
    const inside = (await readdir(path, { recursive: true, withFileTypes: true }))
      .filter(e => e.isFile() && /\.(?:eml|mbox|mbx)$/i.test(e.name))
      .map(e => join(e.parentPath, e.name))
      .sort()
    if (!inside.length) complain(path, new Error('this folder has no .eml or .mbox file'))
    out.push(...inside)
  }
  return out
}
