// Who shows a user's name from outside: a director's name is forged more often than their address.
import { describe, expect, it } from 'vitest'
import { decide } from '#core'
import { UserNames } from '#core/kinds'
import { letter, NOW, OURS, policy } from '../../support/build'

const names = new UserNames([{ name: 'Ines Varga' }, { name: 'Jean-Luc d’Orsay' }, { name: 'Office' }, { name: '' }, { name: '☎' }])
const shown = (name: string) => names.shownBy({ name })

describe('a display name', () => {
  it.each([
    ['Ines Varga', 'Ines Varga'],
    ['VARGA, Ines (via mobile)', 'Ines Varga'],
    ['lnes  Varga', 'Ines Varga'],
    ['Іnеs Vаrgа', 'Ines Varga'],
    ['Dr Jean Luc D\'Orsay', 'Jean-Luc d’Orsay'],
    ['Office', 'Office'],
  ])('“%s” shows the name of %s, whatever its order and its letters', (name, user) => expect(shown(name)).toBe(user))

  it.each(['', 'Ines', 'Varga Shipping', 'Inesvarga', 'The Office Shop', 'Office 365', '☎', ','])('“%s” shows no user’s name', name =>
    expect(shown(name)).toBeNull())

  it('costs no more for a long one than its length: a header of words keeps no mail waiting', () => {
    const many = new UserNames(Array.from({ length: 5000 }, (_, n) => ({ name: `User${n} Smith${n}` })))
    const name = Array.from({ length: 20_000 }, (_, n) => `w${n}`).join(' ')
    expect(many.shownBy({ name })).toBeNull()
    expect(many.shownBy({ name: `${name} Smith4999 User4999` })).toBe('User4999 Smith4999')
  })
})

describe('the condition', () => {
  const p = policy({ rules: [{ id: 'r', name: 'R', owner: 'organisation', state: 'enabled', when: { userName: true }, except: [],
    claims: [{ stop: { to: 'bin' } }] }] })
  const lane = async (from: string) => decide(await letter({ from }), `oskar@${OURS}`, p, { now: NOW }).lane
  it('holds for a user’s name at an address outside, and not at your own domain, nor for others', async () => {
    expect(await lane('Oskar <oskar@fraud.test>')).toBe('bin')
    expect(await lane(`Oskar <oskar@${OURS}>`)).toBe('inbox')
    expect(await lane('Oscar Wilde <oskar@fraud.test>')).toBe('inbox')
  })
})
