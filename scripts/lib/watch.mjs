import { say } from './run.mjs'

const EVERY = 3000

/**
 * Keeps an eye on a cluster. One whose disk is full, or that stopped by itself, is told of once; and one that stopped is started
 * again as soon as that can be done.
 * @param onChange told once what is wrong, as { why, more }, and null when it is well again
 * @returns a function that ends the watch
 */
export function watchCluster(cluster, onChange, every = EVERY) {
  let ill = false
  const look = () => {
    const runs = cluster.runs()
    if (runs && cluster.hasRoom()) {
      if (ill) well()
      return
    }
    if (!ill) {
      ill = true
      const message = cluster.complaint()
      say(`${message.why} ${message.more}${runs ? '' : ' It is started again as soon as possible.'} No mail is accepted meanwhile.`)
      onChange(message)
    }
    if (runs) return
    try {
      cluster.start()
    }
    catch {
      return // said once; the next look tries again
    }
    if (cluster.hasRoom()) well()
  }
  const well = () => {
    ill = false
    say('The database works again.')
    onChange(null)
  }
  const timer = setInterval(look, every)
  return () => clearInterval(timer)
}
