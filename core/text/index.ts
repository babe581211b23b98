export { plainView, type View } from './view'
export { findPhrase, phraseKey, splitPhrases, type Span } from './phrases'
export { isWholeWords } from './words'
