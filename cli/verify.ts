import { readFile } from 'node:fs/promises'
import { parseArgs } from 'node:util'
import { normaliseIp } from '#core'
import { readZone, verifySender, ZoneError, zoneResolver, type Zone } from '#core/verification'
import { Complaint } from './complaint'
import { eachFile, printLine, readable } from './files'
import { instantFrom } from './instant'

/** sober-gate verify: see help.ts. */
export async function verifyCommand(args: string[]): Promise<void> {
  const { values, positionals } = parseArgs({
    args,
    allowPositionals: true,
    options: {
      zone: { type: 'string' },
      client: { type: 'string' },
      helo: { type: 'string' },
      sender: { type: 'string' },
      now: { type: 'string' },
    },
  })
  if (!values.zone) throw new Complaint('Name the zone file: --zone FILE')
  if (values.client !== undefined && normaliseIp(values.client) === null) throw new Complaint(`“${values.client}” is not an IP address.`)
  const resolve = zoneResolver(await zoneFrom(values.zone))
  const how = {
    mailFrom: values.sender?.replace(/^<|>$/g, '') ?? null,
    helo: values.helo ?? null,
    client: values.client ?? null,
    receivedAt: instantFrom(values.now),
  }
  await eachFile(positionals, async (bytes) => {
    const { authentication } = await verifySender({ bytes, ...how }, { policy: resolve, others: resolve })
    const { spf, dkim, dmarc, arc } = authentication.found!
    printLine({
      spf: { result: spf.result, domain: spf.domain },
      dkim: dkim.map(({ domain, selector, result, aligned }) => ({ domain, selector, result, aligned })),
      dmarc: { result: dmarc.result, domain: dmarc.domain, policy: dmarc.policy },
      arc: { result: arc.result },
    })
  })
}

async function zoneFrom(file: string): Promise<Zone> {
  try {
    // One character an octet, as zones are.
    return readZone(await readFile(file, 'latin1'))
  }
  catch (error) {
    throw new Complaint(`${file}: ${error instanceof ZoneError ? error.message : String((readable(error) as Error).message)}`)
  }
}
