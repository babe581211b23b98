import { describe, expect, it } from 'vitest'
import { pathHere } from '../../../app/composables/pathHere'

describe('where the sign-in leads: a link from outside would take somebody who has just typed a password elsewhere', () => {
  it.each([
    ['/review?lane=bin#x', '/review?lane=bin#x'],
    ['/lists/a%2Fb', '/lists/a%2Fb'],
    ['//evil.test/x', '/'],
    ['/\\evil.test', '/'],
    ['/\t/evil.test', '/'],
    ['/\n\\evil.test', '/'],
    ['https://evil.test/', '/'],
    ['javascript:alert(1)', '/'],
    ['', '/'],
    ['/x/../..//evil.test', '/'],
  ])('%j leads to %j', (to, there) => {
    expect(pathHere(to, 'https://gate.example')).toBe(there)
  })
})
