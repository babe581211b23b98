import { describe, expect, it } from 'vitest'
import { factHolds, SCRIPTS, UserNames, type Script } from '#core/kinds'
import { envelope, message, NOW, TRUST } from '../../support/build'

// A sentence in each language; which script a language is usually written in says CLDR (likely subtags), by Intl.
const SENTENCES: Record<string, string> = {
  en: 'All human beings are born free and equal in dignity and rights.',
  pl: 'Wszyscy ludzie rodzą się wolni i równi pod względem swej godności.',
  vi: 'Tất cả mọi người sinh ra đều được tự do và bình đẳng.',
  ru: 'Все люди рождаются свободными и равными в своём достоинстве.',
  uk: 'Всі люди народжуються вільними і рівними у своїй гідності.',
  el: 'Όλοι οι άνθρωποι γεννιούνται ελεύθεροι και ίσοι.',
  ar: 'يولد جميع الناس أحرارا متساوين في الكرامة والحقوق',
  fa: 'تمام افراد بشر آزاد به دنیا می‌آیند',
  he: 'כל בני האדם נולדו בני חורין ושווים בערכם',
  hy: 'Բոլոր մարդիկ ծնվում են ազատ ու հավասար',
  ka: 'ყველა ადამიანი იბადება თავისუფალი და თანასწორი',
  hi: 'सभी मनुष्य जन्म से स्वतन्त्र तथा समान हैं',
  bn: 'সমস্ত মানুষ স্বাধীনভাবে সমান মর্যাদা নিয়ে জন্মগ্রহণ করে',
  ta: 'மனிதப் பிறவியினர் சகலரும் சுதந்திரமாகவே பிறக்கின்றனர்',
  th: 'มนุษย์ทั้งหลายเกิดมามีอิสระและเสมอภาคกัน',
  am: 'የሰው ልጅ ሁሉ ሲወለድ ነጻና በክብርና በመብትም እኩልነት ያለው ነው',
  zh: '人人生而自由，在尊严和权利上一律平等。',
  ja: 'すべての人間は、生まれながらにして自由であり、平等である。',
  ko: '모든 인간은 태어날 때부터 자유로우며 평등하다.',
}
const ISO_15924: Partial<Record<string, Script>> = {
  Latn: 'Latin',
  Cyrl: 'Cyrillic',
  Grek: 'Greek',
  Arab: 'Arabic',
  Hebr: 'Hebrew',
  Armn: 'Armenian',
  Geor: 'Georgian',
  Deva: 'Devanagari',
  Beng: 'Bengali',
  Taml: 'Tamil',
  Thai: 'Thai',
  Ethi: 'Ethiopic',
  Hans: 'Han',
  Jpan: 'Japanese',
  Kore: 'Korean',
}
const NOBODY = new UserNames([])
const scriptsOf = async (subject: string, body: string, type = 'text/plain') => {
  const m = await message(
    `From: a@x.test\r\nSubject: ${subject}\r\nContent-Type: ${type}; charset=utf-8\r\n\r\n${body}`,
    envelope(),
  )
  const known = { message: m, recipient: m.content.from[0]!, direction: 'inbound' as const, now: NOW, trust: TRUST, userNames: NOBODY }
  return SCRIPTS.filter(script => factHolds({ script }, known) !== null)
}

describe('the script of a text (Unicode UAX #24; which script a language has: CLDR through Intl)', () => {
  it.each(Object.entries(SENTENCES))('%s', async (language, sentence) => {
    const wanted = ISO_15924[new Intl.Locale(language).maximize().script!]!
    expect(await scriptsOf('', sentence)).toEqual([wanted])
  })
  it('most letters decide, not the first: links and figures in a Russian offer do not make it Latin', async () => {
    expect(await scriptsOf('Rechnung', `${SENTENCES.ru!.repeat(3)} https://x.test 12345`)).toEqual(['Cyrillic'])
    expect(await scriptsOf(SENTENCES.en!, 'Все')).toEqual(['Latin'])
  })
  it('hidden words count for nothing: nobody turns a text into another with what no reader sees', async () => {
    const page = `<p>${SENTENCES.ru}</p><p style="display:none">${SENTENCES.en!.repeat(9)}</p>`
    expect(await scriptsOf('', page, 'text/html')).toEqual(['Cyrillic'])
  })
  it('too few letters, none, or a script without a name here: no script is said', async () => {
    expect(await scriptsOf('', '12345 !? 😀')).toEqual([])
    expect(await scriptsOf('', 'Да')).toEqual([])
    expect(await scriptsOf('', 'ᎣᏏᏲ ᏙᎯᏧ ᏣᎳᎩ ᎦᏬᏂᎯᏍᏗ')).toEqual([])
  })
  it('half and half is mostly neither', async () => {
    expect(await scriptsOf('', 'aaaaaaaaaa бббббббббб')).toEqual([])
  })
})
