import { readFile } from 'node:fs/promises'
import { readPolicy } from '#core'
import { Complaint } from './complaint'

/** A policy from a file. @throws with what is wrong with it */
export async function policyFrom(file: string) {
  const text = await readFile(file, 'utf8').catch(() => {
    throw new Complaint(`${file} cannot be read.`)
  })
  let json: unknown
  try {
    json = JSON.parse(text)
  }
  catch (error) {
    throw new Complaint(`${file} is not JSON: ${error instanceof Error ? error.message : String(error)}`)
  }
  const read = readPolicy(json)
  if ('problems' in read)
    throw new Complaint(`${file} is not a valid policy:\n${read.problems.map(p => `  ${p.path || '/'}: ${p.message}`).join('\n')}`)
  return read.policy
}
