import { migrationsFolder, workerFile } from '#places'
import { COMMAND_LINE } from '../access/roles'
import { closeDb } from '../db/client'
import { migrateDb } from '../db/migrate'
import { listenSmtp } from '../smtp/receive'
import { demoZone } from '../../demo'
import { readZone } from '#core/verification'
import { loadDemo } from '../demo/load'
import { startStandInDns, type StandInDns } from '../demo/stand-in-dns'
import { useStandIn, wantsStandIn } from '../verification/dns-servers'
import { faultText, log } from '../platform/log'
import { followPolicy, unfollowPolicy } from '../policy/active-policy'
import { databaseNote, noteDatabase, nowReady, processRoles } from '../platform/readiness'
import { firstVersion } from '../users/setup'
import { startThreads, stopThreads } from '../platform/threads'
import { endStreams } from '../platform/events'
import { registerJob } from '../jobs/kinds'
import { migrateJobs, startJobs, stopJobs } from '../jobs/runner'
import { purgeJob } from '../retention/purge'
import { existingJob } from '../impact/existing-job'
import { askForFacts, factsJob } from '../intake/facts-job'
import { sendersJob } from '../intake/stored-senders'
import { requestRetention, retentionJob } from '../retention/retention-job'
import { manyJob } from '../copies/many-job'
import { endDeactivations } from '../users/deactivation'
import { retention } from '../users/settings'
import { findPerson } from '../users/people'
import { findingsJob } from '../policy/findings'
import { proposalsJob } from '../policy/proposal-check'
import { requestWords, wordsJob } from '../policy/stored-words'
import { requestRanking, rankJob } from '../review/rank'
import { SAVE_JOB } from '../impact/save-changes'
import { saveJob } from '../impact/save-job'

/** Milliseconds between looks for what came to be reviewed. */
const RANK_EVERY = 5000

/** Brings this process up: schema, policy, workers, the demo if asked, and the duties of its roles. */
export default defineNitroPlugin((nitro) => {
  let standIn: StandInDns | null = null
  let stopSmtp: (() => Promise<void>) | null = null
  let hourly: ReturnType<typeof setInterval> | undefined
  let often: ReturnType<typeof setInterval> | undefined
  registerJob('facts', factsJob)
  registerJob('senders', sendersJob)
  registerJob('findings', findingsJob)
  registerJob('proposals', proposalsJob)
  registerJob('words', wordsJob)
  const findActor = async (id: string) => (id === COMMAND_LINE.id ? COMMAND_LINE : findPerson(id))
  registerJob('many', manyJob)
  registerJob('existing', existingJob)
  registerJob(SAVE_JOB, saveJob)
  registerJob('retention', retentionJob(retention))
  registerJob('purge', purgeJob)
  registerJob('rank', rankJob)
  const start = async () => {
    const roles = processRoles()
    await migrateDb(migrationsFolder())
    await migrateJobs()
    await firstVersion()
    startThreads(workerFile)
    await followPolicy()
    const isDemo = process.env.SOBER_GATE_DEMO === '1'
    if (wantsStandIn(isDemo)) {
      const zone = readZone(demoZone())
      standIn = await startStandInDns(() => zone)
      useStandIn(standIn.address)
      log.info({ address: standIn.address }, 'a stand-in for DNS answers for the demo’s domains, and for no other')
    }
    if (isDemo)
      await loadDemo(process.env.SOBER_GATE_DEMO_ANCHOR, Number(process.env.SOBER_GATE_DEMO_MESSAGES ?? 1200))
    if (roles.includes('intake')) {
      const port = Number(process.env.SMTP_PORT ?? 2525)
      stopSmtp = await listenSmtp(port, process.env.SMTP_HOST ?? '127.0.0.1')
      log.info({ port }, 'taking mail')
    }
    if (roles.includes('worker')) {
      await startJobs(findActor)
      await askForFacts()
      await requestWords()
      const clear = () => Promise.all([requestRetention(retention), endDeactivations()]).catch(
        error => log.warn({ error: faultText(error) }, 'expired mail could not be looked for'),
      )
      hourly = setInterval(() => void clear(), 3600_000)
      await clear()
      const order = () => requestRanking().catch(
        error => log.warn({ error: faultText(error) }, 'outdated rows could not be looked for'),
      )
      often = setInterval(() => void order(), RANK_EVERY)
      await order()
    }
    nowReady()
    log.info({ roles }, 'ready')
  }
  start().catch((error: unknown) => {
    log.fatal({ error: faultText(error) }, 'could not start')
    process.exit(1)
  })
  nitro.hooks.hook('close', async () => {
    endStreams()
    clearInterval(hourly)
    clearInterval(often)
    await stopSmtp?.()
    await stopJobs()
    await unfollowPolicy()
    await stopThreads()
    await standIn?.stop()
    await closeDb()
  })
  process.on('message', (message) => {
    if (!noteDatabase(message)) return
    const note = databaseNote()
    if (note) log.error({ more: note.more }, note.why)
    else log.info('the database works again')
  })
  // When the script that started us is gone, so are we.
  if (process.send) process.on('disconnect', () => process.kill(process.pid, 'SIGTERM'))
})
