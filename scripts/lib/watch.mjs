import { say } from './run.mjs'

const EVERY = 3000

/**
 * Keeps an eye on a cluster: one that stopped by itself, for a full disk or because somebody ended it, is started again as soon
 * as that can be done.
 * @param onChange told once why it is down, as { why, more }, and null when it is up again
 * @returns a function that ends the watch
 */
export function watchCluster(cluster, onChange, every = EVERY) {
  let down = false
  const look = () => {
    if (cluster.runs()) return
    if (!down) {
      down = true
      const told = cluster.complaint()
      say(`The database is down: ${told.why}. ${told.more} It is started again as soon as that can be done; no mail is taken meanwhile.`)
      onChange(told)
    }
    try {
      cluster.start()
    }
    catch {
      return // said once; the next look tries again
    }
    down = false
    say('The database runs again.')
    onChange(null)
  }
  const timer = setInterval(look, every)
  return () => clearInterval(timer)
}
