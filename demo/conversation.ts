import type { DemoMail } from './compose'
import { addressOf, PEOPLE } from './world'

const TOVE = PEOPLE.find(p => p.mailboxes.includes('berths'))!
const WIM = { name: 'Wim Astley', address: 'wim.astley@astley-dredging.example' }
const GRETA = { name: 'Greta Moll', address: 'greta.moll@tide-survey.example' }

const TURNS: { from: typeof WIM, text: string, answers: number | null }[] = [
  { from: WIM, text: 'Here is the draft for channel works in March. Which nights suit you?', answers: null },
  { from: GRETA, text: 'Tuesday and Thursday are quiet. Berth 4 is free from the 9th.', answers: 0 },
  { from: WIM, text: 'Then the 10th and the 12th. We need the buoys moved a day before.', answers: 1 },
  { from: GRETA, text: 'The patrol moves them on the 9th at noon.', answers: 2 },
  { from: WIM, text: 'Good. The barge draws 3.2 m.', answers: 3 },
  // The branch: an answer to the third message that leaves out what came after it.
  {
    from: { name: 'Astley site office', address: 'site@astley-dredging.example' },
    text: 'The 12th clashes with the regatta. Could it be the 11th?',
    answers: 2,
  },
  { from: WIM, text: 'The 11th is fine with the crew.', answers: 5 },
  { from: GRETA, text: 'Then the notice says 10th and 11th.', answers: 6 },
  { from: WIM, text: 'Agreed. Dredging notice 11 goes out on Friday.', answers: 7 },
]

/** A conversation of nine messages with one branch; each answer quotes what it answers. */
export function conversation(): DemoMail[] {
  const quotes: string[] = []
  return TURNS.map(({ from, text, answers }, i) => {
    const quoted =
      answers === null
        ? ''
        : `\n\nOn ${answers + 1} March, ${TURNS[answers]!.from.name} wrote:\n${quotes[answers]!.split('\n')
          .map(l => `> ${l}`)
          .join('\n')}`
    quotes[i] = text + quoted
    const id = (n: number) => `<dredge-${n}@${TURNS[n]!.from.address.split('@')[1]}>`
    const chain: number[] = []
    for (let at = answers; at !== null; at = TURNS[at]!.answers) chain.unshift(at)
    return {
      from,
      to: [addressOf(TOVE)],
      authentication: 'pass',
      subject: `${i ? 'Re: ' : ''}Dredging notice 11, draft for comment`,
      text: quotes[i]!,
      headers:
        answers === null
          ? []
          : [
              ['In-Reply-To', id(answers)],
              ['References', chain.map(id).join(' ')],
            ],
    }
  })
}
