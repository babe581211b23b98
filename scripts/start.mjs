// Starts everything: npm start [-- --empty] [--anchor YYYY-MM-DD] [--messages N]
import { randomBytes } from 'node:crypto'
import { chmodSync, existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { createServer } from 'node:net'
import { join, resolve } from 'node:path'
import { parseArgs } from 'node:util'
import { startApplication } from './lib/application.mjs'
import { startCluster } from './lib/cluster.mjs'
import { ensureNode, ensureReady, ROOT } from './lib/ensure.mjs'
import { endRunning, say } from './lib/run.mjs'
import { watchCluster } from './lib/watch.mjs'

const HELP = `npm start [-- OPTIONS]
  --empty           start without the demo; prints a one-time link to create the first administrator
  --anchor DATE     last day of the demo's mail (YYYY-MM-DD; default: today)
  --messages N      number of messages in the demo (default: 1200)
Environment: HOST, SMTP_HOST (127.0.0.1: this machine only; 0.0.0.0: your network too), PORT (3000), SMTP_PORT (2525), DATABASE_URL,
  SOBER_GATE_DATA_DIR (.data)`

async function main() {
  const { values: options } = parseArgs({
    options: { empty: { type: 'boolean' }, anchor: { type: 'string' }, messages: { type: 'string' }, help: { type: 'boolean' } },
  })
  if (options.help) return say(HELP)
  if (options.anchor !== undefined && !/^\d{4}-\d\d-\d\d$/.test(options.anchor))
    throw new Error(`--anchor must be a day such as 2026-11-24, not “${options.anchor}”.`)
  if (options.messages !== undefined && !/^[1-9]\d{0,6}$/.test(options.messages))
    throw new Error(`--messages must be a whole number from 1, not “${options.messages}”.`)
  ensureNode()
  const ending = untilSignal()
  const dataDir = resolve(ROOT, process.env.SOBER_GATE_DATA_DIR ?? '.data')
  const port = process.env.PORT ?? '3000'
  const smtpPort = process.env.SMTP_PORT ?? '2525'
  const host = process.env.HOST || '127.0.0.1'
  const smtpHost = process.env.SMTP_HOST || '127.0.0.1'
  await portIsFree(host, port, 'PORT')
  await portIsFree(smtpHost, smtpPort, 'SMTP_PORT')
  await Promise.race([ensureReady({ built: true }), ending.message.then(endRunning)])
  if (ending.signal.aborted) return
  mkdirSync(dataDir, { recursive: true })
  const kept = keptSecrets(dataDir, options.empty === true)
  const cluster = process.env.DATABASE_URL ? null : await startCluster(join(dataDir, 'postgresql'))
  let application
  const runningFile = join(dataDir, 'running.json')
  const endWatch = cluster && watchCluster(cluster, message => application?.tellOfDatabase(message))
  const stop = async () => {
    endWatch?.()
    rmSync(runningFile, { force: true })
    await application?.stop()
    cluster?.stop()
  }
  try {
    const setupToken = randomBytes(24).toString('base64url')
    application = await startApplication(
      {
        PORT: port,
        SMTP_PORT: smtpPort,
        HOST: host,
        SMTP_HOST: smtpHost,
        DATABASE_URL: process.env.DATABASE_URL || cluster.url,
        NUXT_SESSION_PASSWORD: kept.session,
        SOBER_GATE_LOCAL_TOKEN: kept.token,
        SOBER_GATE_SETUP_TOKEN: setupToken,
        SOBER_GATE_DEMO: kept.demo ? '1' : '0',
        SOBER_GATE_DEMO_ANCHOR: options.anchor ?? '',
        SOBER_GATE_DEMO_MESSAGES: options.messages ?? '1200',
      },
      join(dataDir, 'sober-gate.log'),
      {
        signal: ending.signal,
        onWait: waited => waited === 12 && say(kept.demo ? 'Loading the demo (once, up to a minute)…' : 'Waiting for the application…'),
      },
    )
    writeFileSync(runningFile, JSON.stringify({ url: application.url, token: kept.token, smtpPort: Number(smtpPort) }), { mode: 0o600 })
    say(`\nSober Gate is at ${application.url} and accepts mail at ${smtpHost}:${smtpPort}.`)
    const setup = await fetch(`${application.url}/api/setup?token=${setupToken}`).then(r => r.json())
    if (setup.open)
      say(
        `There are no users yet. Create the first administrator with this link, which works once:\n`
        + `  ${application.url}/first?token=${setupToken}`,
      )
    else if (kept.demo)
      say(
        'Sign in to the demo, an invented harbour office, with the password harbour-demo as\n'
        + '  admin@saltmere-harbour.example      the mail administrator\n'
        + '  reviewer@saltmere-harbour.example   a reviewer\n'
        + '  worker@saltmere-harbour.example     an office worker',
      )
    say('Ctrl-C stops everything.')
    const how = await Promise.race([application.ended, ending.message])
    if (how !== null) say(`The application ended by itself (${how}); its log is ${join(dataDir, 'sober-gate.log')}.`)
    process.exitCode = how === null ? 0 : 1
    say('Stopping…')
  }
  catch (error) {
    if (!ending.signal.aborted) throw error
  }
  finally {
    await stop()
  }
}

// Told to end by a signal, or because whoever started this is gone: npm, told to end, may go without a word.
function untilSignal() {
  const controller = new AbortController()
  const parent = process.ppid
  const message = new Promise((done) => {
    const end = () => {
      controller.abort(new Error('told to end'))
      done(null)
    }
    // A second time it ends at once.
    for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP']) process.once(signal, end)
    setInterval(() => process.ppid !== parent && end(), 500).unref()
  })
  return { message, signal: controller.signal }
}

// Which of the two a data folder holds is decided at its first start, so that a later start never puts the demo into a real one.
function keptSecrets(dataDir, empty) {
  const file = join(dataDir, 'secrets.json')
  if (!existsSync(file)) {
    writeFileSync(
      file,
      JSON.stringify({ session: randomBytes(48).toString('base64url'), token: randomBytes(32).toString('base64url'), demo: !empty }),
      { mode: 0o600 },
    )
    chmodSync(file, 0o600)
  }
  const kept = JSON.parse(readFileSync(file, 'utf8'))
  if (empty && kept.demo)
    throw new Error(
      `${dataDir} holds the demo. For an empty start name another folder: SOBER_GATE_DATA_DIR=.data-mine npm start -- --empty`,
    )
  return kept
}

function portIsFree(host, port, name) {
  if (!/^\d{1,5}$/.test(port) || Number(port) > 65_535) throw new Error(`${name} is a port number, not “${port}”.`)
  return new Promise((free, reject) => {
    const server = createServer()
    server.once('error', ({ code }) => reject(new Error(whyNotFree(code, host, port, name))))
    server.listen(Number(port), host, () => server.close(free))
  })
}

function whyNotFree(code, host, port, name) {
  if (code === 'EADDRNOTAVAIL' || code === 'ENOTFOUND')
    return `${host} is not an address of this machine. Set ${name.replace('PORT', 'HOST')} to one of its addresses, or to 0.0.0.0 for all of them.`
  if (code === 'EACCES') return `Port ${port} may not be opened by this user. Choose another port: ${name}=${Number(port) + 3000} npm start`
  return `Port ${port} is in use, perhaps by another Sober Gate. `
    + `Stop it, or choose another port: ${name}=${Number(port) + 1} npm start`
}

main().catch((error) => {
  process.stderr.write(`${error.message}\n`)
  process.exitCode = 1
})
