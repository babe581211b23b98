export { isDoubted, LIKELY_FROM, likelihood, whyWords, type Likely, type Signs, type Why } from './likely'
export { subjectKey } from './subject'
export { mostInformative, type Unheard } from './most-informative'
