export { capitalised, oneOf, quoted } from './text'
export { counted, numberWords, percentWords, plural, shortSize, sizeWords } from './numbers'
export { dayWords, instantWords, longDate, shortDate, timeWords } from './dates'
