// Queries name lanes by lists of their own: one that differs from the core's would count mail that was stopped as delivered.
import { expect, it } from 'vitest'
import { isDelivered, LANES } from '#core/policy'
import { DELIVERED_LANES, REVIEWED_LANES } from '../../../server/db/lanes'

it('mail is delivered in the same lanes for queries as for the core', () => {
  expect([...DELIVERED_LANES]).toEqual(LANES.filter(isDelivered))
  expect(REVIEWED_LANES.every(lane => LANES.includes(lane))).toBe(true)
})
