import { getRequestURL, type H3Event } from 'h3'
import { inNetwork, normaliseIp } from '#core/message'

/**
 * The address of the browser. Behind a proxy of ours, named in SOBER_GATE_PROXIES as networks, it is the last one in
 * X-Forwarded-For that is not such a proxy; what others write there is not believed.
 */
export function clientAddress({ node: { req } }: H3Event): string {
  const isProxy = proxyTest()
  let client = normaliseIp(req.socket.remoteAddress) ?? ''
  const named = String(req.headers['x-forwarded-for'] ?? '')
    .split(',')
    .slice(-20)
  while (client !== '' && isProxy(client) && named.length) {
    const before = normaliseIp(named.pop())
    if (before === null) break
    client = before
  }
  return client
}

/**
 * The origin by which the browser reached us: https where the connection is encrypted, or a proxy of ours says that its was
 * (X-Forwarded-Proto); what others write there is not believed.
 */
export function requestOrigin(event: H3Event): string {
  const isBehindProxy = proxyTest()(normaliseIp(event.node.req.socket.remoteAddress) ?? '')
  return getRequestURL(event, { xForwardedProto: isBehindProxy }).origin
}

function proxyTest(): (ip: string) => boolean {
  const proxies = (process.env.SOBER_GATE_PROXIES ?? '')
    .split(',')
    .map(n => n.trim())
    .filter(Boolean)
  return ip => proxies.some(network => inNetwork(ip, network))
}
