import { randomBytes, scrypt, timingSafeEqual } from 'node:crypto'

const COST = { N: 2 ** 15, r: 8, p: 1, maxmem: 64 * 1024 * 1024 }
const KEY_BYTES = 32

function derive(password: string, salt: Buffer, cost: typeof COST): Promise<Buffer> {
  return new Promise((resolve, reject) =>
    scrypt(password.normalize('NFKC'), salt, KEY_BYTES, { ...cost }, (error, key) => (error ? reject(error) : resolve(key))),
  )
}

/** A salted scrypt hash (RFC 7914) that carries its cost. */
export async function hashPassword(password: string): Promise<string> {
  const salt = randomBytes(16)
  const key = await derive(password, salt, COST)
  return `scrypt:${COST.N}:${COST.r}:${COST.p}:${salt.toString('base64')}:${key.toString('base64')}`
}

/** True if the password has that hash. Takes as long where there is no hash, so that nobody learns who exists. */
export async function isPassword(password: string, hash: string | null): Promise<boolean> {
  const [, n, r, p, salt, key] = (
    hash ?? `scrypt:${COST.N}:${COST.r}:${COST.p}:AAAAAAAAAAAAAAAAAAAAAA==:${Buffer.alloc(KEY_BYTES).toString('base64')}`
  ).split(':')
  const derived = await derive(password, Buffer.from(salt!, 'base64'), { ...COST, N: Number(n), r: Number(r), p: Number(p) })
  return timingSafeEqual(derived, Buffer.from(key!, 'base64')) && hash !== null
}
