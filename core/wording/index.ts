export { capitalised, oneOf, quoted } from './text'
export { counted, numberWords, percentWords, plural, sizeWords } from './numbers'
export { dayWords, instantWords, longDate, shortDate, timeWords } from './dates'
