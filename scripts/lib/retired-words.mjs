// Words that no text for people has: each with the word that is used instead. Where two are given, the context decides.

/** Whole words, in lower case; a space in one matches any white space. */
export const RETIRED_WORDS = {
  'acting': 'enabled',
  'among us': 'internal',
  'and below': 'and subdomains',
  'anybody': 'anyone',
  'asked for': 'requested',
  'at the door': 'at receipt',
  'be gone': 'be deleted',
  'broad': 'affects many messages',
  'catch': 'match',
  'catches': 'matches',
  'cleared away': 'deleted permanently',
  'clause': 'list or rule',
  'clauses': 'lists and rules',
  'closed door': 'default deny',
  'companion': 'near',
  'disguise': 'obfuscated spelling',
  'dropped': 'discarded',
  'drop it': 'discard',
  'erase': 'delete permanently',
  'erased': 'deleted permanently',
  'everybody': 'all users',
  'for good': 'permanently',
  'forgotten': 'deleted',
  'give back': 'return',
  'given back': 'returned',
  'giving back': 'returning',
  'held off': 'overridden',
  'house': 'organisation, settings',
  'in force': 'active, saved',
  'judge': 'mark',
  'judged': 'marked',
  'ladder': 'reasons',
  'lane': 'location',
  'lanes': 'locations',
  'leave it': 'cancel',
  'lies': 'is',
  'look again': 'cancel',
  'meant': 'selected',
  'mend': 'fix',
  'mends': 'fixes',
  'must rule': 'mandatory rule',
  'nobody': 'no one, none',
  'of ours': 'of your own',
  'of yours': 'your own',
  'our': 'your',
  'ours': 'yours',
  'outranked': 'comes after',
  'put right': 'fix',
  'reader': 'recipient',
  'readers': 'recipients',
  'rehearsal': 'simulation',
  'rehearsed': 'simulated',
  'reject': 'move to Bin, decline',
  'rejected': 'moved to Bin, declined',
  'rung': 'reason',
  'sketch': 'block, allow, new rule',
  'slow lane': 'Low priority',
  'so many': 'the number of',
  'soften': 'override',
  'somebody': 'someone',
  'spares': 'excepts',
  'stands': 'is shown',
  'take back': 'undo, withdraw',
  'taken back': 'undone, withdrawn',
  'tries': 'attempts',
  'undisguised': 'obfuscated',
  'unjudged': 'not marked',
  'unsay': 'clear mark',
  'us': 'your organisation',
  'watch': 'monitor only',
  'watches': 'monitor only',
  'watching': 'monitor only',
  'we': 'your organisation',
  'what is here': 'existing mail',
  'whoever': 'the user who',
}

const LONGEST_FIRST = Object.keys(RETIRED_WORDS).sort((a, b) => b.length - a.length)

/** @param {string} text @returns {string[]} the retired words that it has */
export function retiredWordsIn(text) {
  let words = ` ${text.toLowerCase().replace(/’/g, '\'').replace(/[^\p{L}\p{N}']+/gu, ' ')} `
  const found = []
  for (const word of LONGEST_FIRST) {
    if (!words.includes(` ${word} `)) continue
    found.push(word)
    words = words.replaceAll(` ${word} `, ' · ')
  }
  return found
}
