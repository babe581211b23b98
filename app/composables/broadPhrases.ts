import type { Ref } from 'vue'
import { phraseText, ruleStops, type PhraseItem } from '#core/policy'
import { api, type RuleForm } from '~/api/client'

const MAX_ASKED = 8

/**
 * Which of a rule's phrases are too broad by themselves, once all of it is: each is asked alone.
 * @param broad why the whole is too broad, or null
 * @returns the phrase and why, for those that are
 */
export function useBroadPhrases(form: Ref<RuleForm | null>, broad: Ref<string | null>) {
  const found = ref<{ phrase: string, why: string }[]>([])
  let asked = 0

  watch(broad, async (why) => {
    const mine = ++asked
    found.value = []
    const rule = form.value
    if (!why || !rule || !ruleStops(rule)) return
    const all = phrasesIn(rule)
    // The only one is the cause.
    if (all.length === 1) found.value = [{ phrase: phraseText(all[0]!), why }]
    else
      for (const item of all.slice(0, MAX_ASKED)) {
        const alone = {
          ...rule,
          id: undefined,
          name: 'alone',
          when: { phrases: [phraseText(item)] },
          except: [],
          state: 'enabled' as const,
        }
        try {
          const impact = await api.impactNow([{ type: 'put', kind: 'rule', value: alone }])
          if (mine !== asked) return
          if (impact.broad) found.value.push({ phrase: phraseText(item), why: impact.broad })
        }
        catch (error) {
          // That the whole is broad stands beside it already; which phrase makes it so is only a hint.
          console.warn(error)
          return
        }
      }
  })
  return found
}

function phrasesIn({ when }: RuleForm): PhraseItem[] {
  const members = 'any' in when ? when.any : 'all' in when ? when.all : [when]
  return members.flatMap(m => ('phrases' in m && m.phrases ? m.phrases : []))
}
